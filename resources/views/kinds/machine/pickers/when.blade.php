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
    @include('chart.points', ['rows' => $inHand->rows($chart), 'field' => 'point'])
</form>
