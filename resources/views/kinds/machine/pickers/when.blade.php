@php($chart = $view->chart())
@php($base = $frame->url('when'))
@php($inHand = $view->inHand())
<x-wanted-moment :frame="$frame" label="wanted" />
<p class="hint">{{ $inHand->sentences() }}</p>
<x-demands :frame="$frame" :demands="$sheet->demands" />
<x-wanted-reading :frame="$frame" />
@if ($view->nearest() !== [] || $inHand->isOwnChoice())
    <form method="post" action="/requests/{{ $request->id }}/machine" class="nearest">@csrf<input type="hidden" name="settle"
            value="point">
        @foreach ($view->nearest() as $side => $nearest)
            <span class="muted">nearest {{ $side }}</span> <button class="link" id="nearest-{{ $side }}" name="point"
                value="{{ $nearest->id }}"><x-moment :at="$nearest->capturedAt()" :zone="$frame->zone" :offset="false" />
                {{ $nearest->level->words() }}</button>
        @endforeach
        @if ($inHand->isOwnChoice())
            <button class="link" id="proposed-again" name="point" value="">Take the proposed point again</button>
        @endif
    </form>
@endif
@include('chart.drawing', [
    'name' => $sheet->workload->name,
    'zone' => $frame->zone,
    'canMove' => true,
    'hasChosen' => $sheet->point !== null,
    'loss' => $sheet->point === null ? null : ['from' => $sheet->point->capturedAt(), 'seconds' => $inHand->lossSeconds()],
])
@include('chart.tools', ['canMove' => true])
<form id="choose-point" method="post" action="/requests/{{ $request->id }}/machine">@csrf<input type="hidden" name="settle"
        value="point"><input type="hidden" name="view" value="{{ $chart->window->query() }}">
    <div class="scroll below-chart">
        <table class="list">
            <thead>
                <tr>
                    <th>Point</th>
                    <th>Level</th>
                    <th>State</th>
                    <th class="num">Written</th>
                    <th>Copies</th>
                    <th>Why, or why not</th>
                </tr>
            </thead>
            <tbody>
                @foreach ($inHand->rows($chart) as ['post' => $post, 'why' => $why])
                    <tr id="point-{{ $post->set->id }}" data-of-post="{{ $post->set->id }}"
                        class="@if ($chart->isChosen($post->set)) chosen @elseif (!$chart->isOwn($post->set)) off @endif">
                        <td class="tight"><button class="row-pick" data-row name="point" value="{{ $post->set->id }}"
                                title="{{ $post->set->name }}"><time class="mono" datetime="{{ $post->utc }}"
                                    title="{{ $post->utc }}">{{ $post->shortly() }}</time></button></td>
                        @include('chart.row')
                        <td>{{ $why }}</td>
                    </tr>
                @endforeach
            </tbody>
        </table>
        @if ($chart->posts === [])
            <p class="empty">No set of this span passes. Show more time with −, or set another moment.</p>
        @endif
    </div>
</form>
