@php($chart = $view->chart())
@php($base = $frame->url('when'))
@php($inHand = $view->inHand())
<x-wanted-moment :frame="$frame" label="wanted" />
<p class="hint">{{ $inHand->sentences() }}</p>
<x-demands :frame="$frame" :demands="$sheet->demands" />
<x-wanted-reading :frame="$frame" />
@if ($inHand->isOwnChoice())
    <form method="post" action="{{ $view->settleUrl() }}" class="nearest">@csrf<input type="hidden" name="settle" value="point">
        <button class="link" id="proposed-again" name="point" value="">Take the proposed point again</button>
    </form>
@endif
@include('chart.drawing', [
    'name' => $sheet->workload->name,
    'zone' => $frame->zone,
    'canMove' => true,
    'hasChosen' => $sheet->point !== null,
    'loss' => $sheet->point === null ? null : ['from' => $sheet->point->captured_at, 'seconds' => $inHand->lossSeconds()],
])
@include('chart.tools', ['canMove' => true])
<form id="choose-point" method="post" action="{{ $view->settleUrl() }}">@csrf<input type="hidden" name="settle" value="point"><input
        type="hidden" name="view" value="{{ $chart->window->query() }}">
    @include('chart.points', ['rows' => $view->rows(), 'field' => 'point'])
</form>
