@use('App\Words')
@use('Carbon\CarbonImmutable')
@php($chart = $view->chart())
@php($base = $frame->url('when'))
@php($strip = $view->strip())
@php($likeliest = $sheet->suspects()->likeliest())
<x-wanted-moment :frame="$frame" label="last good" />
<x-wanted-reading :frame="$frame" />
@if ($likeliest !== null)
    @php($one = $likeliest->transaction)
    <form method="post" action="/requests/{{ $request->id }}/database" class="culprit">@csrf<input type="hidden" name="set"
            value="stop"><input type="hidden" name="stop" value="before"><input type="hidden" name="gtid"
            value="{{ $one->gtid }}"><strong>Likely it was <span class="mono">{{ $one->gtid }}</span></strong> at
        {{ CarbonImmutable::createFromTimestamp($one->at, $frame->zone)->format('D H:i:s') }}:
        {{ $likeliest->suspicion->reason }} @if (($sheet->choice['before'] ?? '') === $one->gtid)
        <span class="muted">It stops right before it.</span>@else<button class="btn btn-sm btn-outline-primary"
                id="before-culprit">Stop right before it</button>
        @endif
    </form>
@else<p class="hint">No transaction between the wanted moment and when it was noticed stands out.</p>
@endif
<div class="low-chart">@include('chart.drawing', [
    'name' => $sheet->workload->name,
    'zone' => $frame->zone,
    'canMove' => true,
    'hasChosen' => $sheet->reaches !== [],
    'loss' => null,
])</div>
<form method="get" action="/requests/{{ $request->id }}" class="toggles tools strip-tools"><input type="hidden" name="show"
        value="when"><input type="hidden" name="minutes" value="{{ $strip->minutes }}"><input type="hidden" name="mid"
        value="{{ gmdate('Y-m-d\TH:i:s\Z', $strip->middle()) }}">
    <strong class="small">Transactions</strong>
    <label class="visually-hidden" for="strip-table">Table</label><select class="form-select form-select-sm w-auto" id="strip-table"
        name="table">
        <option value="">all tables</option>
        @foreach ($strip->tables() as $table)
            <option @selected($table === $strip->table)>{{ $table }}</option>
        @endforeach
    </select>
    <label class="visually-hidden" for="strip-of">In the statement</label><input class="form-control form-control-sm mono w-auto"
        id="strip-of" name="of" size="16" maxlength="200" placeholder="in the statement" value="{{ $strip->words }}">
    <button class="btn btn-sm btn-outline-primary">Show</button>
    <span class="push text-nowrap"><span class="muted">{{ Words::duration($strip->minutes * 60) }}</span>
        <a class="step" aria-label="Earlier" title="Earlier ([)" data-key="["
            href="{{ $base }}{{ $strip->query(null, $strip->middle() - $strip->minutes * 30) }}">←</a><a class="step"
            aria-label="Later" title="Later (])" data-key="]"
            href="{{ $base }}{{ $strip->query(null, $strip->middle() + $strip->minutes * 30) }}">→</a><a class="step"
            aria-label="Show less time" title="Less time (+)" data-key="+"
            href="{{ $base }}{{ $strip->query(max(2, intdiv($strip->minutes, 3))) }}">+</a><a class="step"
            aria-label="Show more time" title="More time (-)" data-key="-"
            href="{{ $base }}{{ $strip->query(min(86400, $strip->minutes * 3)) }}">−</a></span>
</form>
@include('kinds.database.strip')
<div class="scroll below-strip" tabindex="0" role="region" aria-label="Transactions">
    <table class="list transactions">
        <thead>
            <tr>
                <th>Committed</th>
                <th>Transaction</th>
                <th class="num">In</th>
                <th class="num">Changed</th>
                <th class="num">Out</th>
                <th>Tables</th>
                <th>Statement</th>
                <th>Stop</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($strip->listed() as $one)
                @php($odd = $strip->suspicion($one))
                <tr id="transaction-{{ $one->gtid }}"
                    class="@if ($strip->isLost($one)) after @endif @if ($odd !== null) odd @endif @if (($sheet->choice['before']
                        ?? '') === $one->gtid || ($sheet->choice['rows-of'] ?? ($sheet->choice['reverse']
                        ?? '')) === $one->gtid) chosen @endif">
                    <td class="tight"><time class="mono" datetime="{{ $one->moment() }}"
                            title="{{ $one->moment() }}">{{ CarbonImmutable::createFromTimestamp($one->at,
                                $frame->zone)->format($strip->minutes > 1440 ? 'D j H:i:s' : 'H:i:s') }}</time>
                    </td>
                    <td class="tight mono" title="{{ $one->begins()->text() }}">{{ $one->gtid }}</td>
                    <td class="num">{{ $one->inserted === 0 ? '' : number_format($one->inserted) }}</td>
                    <td class="num">{{ $one->updated === 0 ? '' : number_format($one->updated) }}</td>
                    <td class="num">{{ $one->deleted === 0 ? '' : number_format($one->deleted) }}</td>
                    <td class="tight">{{ $one->tableNames() }}</td>
                    <td class="statement mono" title="{{ $one->statement }}">
                        @if ($odd !== null)
                            <span class="attention">{{ $odd->reason }}</span>
                        @endif{{ mb_strimwidth(preg_replace('/\s+/', ' ', $one->statement) ?? '', 0, 90, '…') }}
                    </td>
                    <td class="tight">
                        <form method="post" action="/requests/{{ $request->id }}/database" class="d-inline">@csrf<input
                                type="hidden" name="set" value="stop"><input type="hidden" name="gtid"
                                value="{{ $one->gtid }}"><input type="hidden" name="view"
                                value="{{ $strip->query() }}"><button class="link" data-row name="stop" value="before"
                                aria-label="Stop before {{ $one->gtid }}">before</button> <button class="link" name="stop"
                                value="through" aria-label="Stop after {{ $one->gtid }}">after</button></form>
                    </td>
                </tr>
            @endforeach
        </tbody>
    </table>
    @if ($strip->isCut)
        <p class="muted">Only the first {{ number_format(count($strip->all)) }} of this span are gone through: show less time with +.
        </p>
    @endif
    @if ($strip->all === [])
        <p class="empty">No transaction
            {{ $strip->table === '' && $strip->words === '' ? 'was committed in this span' : 'of this span fits' }}. Show more time
            with −, or go earlier or later.</p>
    @endif
</div>
@if (!isset($sheet->choice['at']))
    <form method="post" action="/requests/{{ $request->id }}/database" class="mt-1">@csrf<input type="hidden" name="set"
            value="stop"><button class="link" name="stop" value="wanted">Stop at the wanted moment instead</button></form>
@endif
