@use('App\Words')
@php($chart = $view->chart())
@if ($chart === null)
    <h2>
        Which workload</h2>
    <p class="hint">The requester was not sure. Search <kbd>/</kbd> finds names in all workloads.</p>
    <form method="post" action="/requests/{{ $request->id }}/workload" class="d-flex gap-2">@csrf
        <select class="form-select w-auto" name="workload" aria-label="Workload">
            @foreach ($view->workloads() as $workload)
                <option value="{{ $workload->id }}">{{ $workload->name }}</option>
            @endforeach
        </select>
        <button class="btn btn-primary">It is this one</button>
    </form>
@else
    @php($base = $frame->url('when'))
    @php($found = $sheet->found)
    <x-wanted-moment :frame="$frame" label="wanted" />
    <p class="hint">{{ $view->why() }}</p>
    <x-demands :frame="$frame" :demands="$sheet->demands" />
    @php($best = $sheet->best)
    @php($offered = $best === null ? $sheet->cleanInstead() : null)
    @if ($best !== null)
        <p class="assumed">Each file from the newest point at which it is right: {{ Words::count($best->unchanged, 'file') }} as of
            this point, {{ number_format($best->count('older')) }} from an earlier one, {{ number_format($best->count('returned')) }}
            that vanished given back, {{ number_format($best->count('lost')) }} without a good version.
        <form method="post" action="/requests/{{ $request->id }}/across" class="d-inline">@csrf<button class="link">Take all from
                one point again</button></form>
        </p>
    @elseif ($offered !== null)
        <p class="assumed">{{ $offered }}
        <form method="post" action="/requests/{{ $request->id }}/across" class="d-inline">@csrf<button class="link"
                id="across">Take the newest good version of everything</button></form>
        </p>
    @endif
    <x-wanted-reading :frame="$frame" />
    @if ($found->before !== null || $found->after !== null || $sheet->isOwnChoice())
        <div class="nearest">
            @foreach (['before' => $found->before, 'after' => $found->after] as $side => $other)
                @if ($other !== null && ($nearest = $sheet->points->set($other->id)) !== null)
                    <form method="post" action="/requests/{{ $request->id }}/point">@csrf<span class="muted">nearest
                            {{ $side }}</span> <button class="link" id="nearest-{{ $side }}" name="set"
                            value="{{ $nearest->id }}"><x-moment :at="$nearest->capturedAt()" :zone="$frame->zone" :offset="false" />
                            {{ $nearest->level->words() }}</button></form>
                @endif
            @endforeach
            @if ($sheet->isOwnChoice())
                <form method="post" action="/requests/{{ $request->id }}/point">@csrf<button class="link" id="proposed-again">Take
                        the proposed point again</button></form>
            @endif
        </div>
    @endif
    @include('chart.drawing', [
        'name' => $request->workload->name,
        'zone' => $frame->zone,
        'canMove' => true,
        'hasChosen' => $sheet->point !== null,
        'loss' => $sheet->point === null ? null : ['from' => $sheet->point->captured_at, 'seconds' => $sheet->lossSeconds()],
    ])
    @include('chart.tools', ['canMove' => true])
    <form id="choose-point" method="post" action="/requests/{{ $request->id }}/point">@csrf<input type="hidden" name="view"
            value="{{ $chart->window->query() }}">
        @include('chart.points', ['rows' => $view->rows(), 'field' => 'set'])
    </form>
@endif
