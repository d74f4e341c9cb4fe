@use('App\Runs\SetAsides')
@use('App\Words')
@use('Carbon\CarbonImmutable')
@php($lost = $sheet->lost())
@php($estimate = $sheet->estimate())
@php($reached = $sheet->reached())
<section>
    <h2>Slip</h2>
    <dl class="facts">
        <dt>Comes back</dt>
        <dd>{{ $sheet->order === null ? 'nothing yet' : $sheet->whatInWords() }}@if ($reached !== null && !$view->isByRows())
                <span class="d-block muted">last committed: <span class="mono">{{ $reached->gtid }}</span>, <x-moment
                    :at="CarbonImmutable::createFromTimestampUTC($reached->at)"
                        :zone="$frame->zone" :offset="false" /></span>
            @endif
        </dd>
        <dt>Is lost</dt>
        <dd>
            @if ($view->isByRows())
                nothing, but for rows that were changed since
            @elseif ($lost->transactions === 0)
                nothing that the logs hold
            @else
                <span
                    class="{{ $sheet->order?->isInPlace() ? 'attention' : '' }}">{{ Words::count($lost->transactions, 'transaction') }}
                    after the stop{{ $sheet->order?->isInPlace() ? '' : ', in this copy' }}</span>
            @endif
            @if ($lost->tables !== [] && !$view->isByRows())
                <details>
                    <summary>by table</summary>
                    <table class="list small">
                        @foreach (array_slice($lost->tables, 0, 12, true) as $table => $of)
                            <tr>
                                <td class="mono">{{ $table }}</td>
                                <td class="num">{{ number_format($of->transactions) }}</td>
                                <td class="muted">
                                    @if ($of->inserted > 0)
                                        +{{ number_format($of->inserted) }}
                                        @endif @if ($of->updated > 0)
                                            ~{{ number_format($of->updated) }}
                                            @endif @if ($of->deleted > 0)
                                                −{{ number_format($of->deleted) }}
                                            @endif
                                </td>
                            </tr>
                        @endforeach
                    </table>
                </details>
            @endif
        </dd>
        <dt>Takes</dt>
        <dd>
            @if ($estimate === null)
                not known
            @else
                about {{ Words::duration($estimate->whole->likely) }} ({{ Words::duration($estimate->whole->least) }} to
                {{ Words::duration($estimate->whole->most) }})
            @endif
        </dd>
        <dt>Touches</dt>
        <dd>
            @if ($sheet->order === null)
                not known
            @elseif ($view->isByRows())
                <span class="attention">rows of live tables, each compared first</span>
            @elseif ($sheet->order->isInPlace())
                <span class="attention">the live {{ $sheet->order->tables === null ? 'schema' : 'tables' }}; kept aside
                    {{ SetAsides::DAYS }} days</span>
            @else
                nothing that is there now
            @endif
        </dd>
    </dl>
</section>
<section>
    <h2>Reading list</h2>
    @if ($sheet->problem !== null)
        <p class="attention">{{ $sheet->problem }}</p>
    @elseif (($alone = $sheet->alone()) !== null)
        <ol>
            <li><span class="mono">{{ $alone->file }}</span><span class="muted">, up to {{ number_format($alone->end) }}: it holds
                    the rows before and after</span></li>
        </ol>
    @else
        <ol>
            @foreach ($sheet->reaches as $reach)
                <li><span class="mono">{{ $reach->dump->name }}</span> <span class="muted">dump, <x-size :bytes="$reach->dump->bytes"
                    /></span>
                </li>
                @if ($reach->logs !== [])
                    <li>{{ Words::count(count($reach->logs), 'log') }} <span class="muted mono">{{ $reach->logs[0]->file }}
                            @if (count($reach->logs) > 1)
                                to {{ $reach->logs[count($reach->logs) - 1]->file }}
                            @endif
                        </span>
                        <span class="muted">, <x-size :bytes="$reach->logBytes()" /></span>
                    </li>
                @endif
            @endforeach
        </ol>
    @endif
    @php($reading = $sheet->reading)
    @if ($reading !== null)
        <p class="muted">from {{ implode(' and ', array_unique(array_values($reading->stores()))) }}</p>
        @php($toFetch = $reading->estimate()->labelsToFetch())
        @if ($toFetch !== [])
            <p class="attention">To fetch from the shelf:
                {{ implode(', ', $toFetch) }}.
                The run asks for {{ count($toFetch) === 1 ? 'it' : 'them' }} and waits.</p>
        @endif
        <p><a href="{{ $frame->url('how') }}#copies">Other copies, and what they cost</a>
            @if (!$request->copyRule()->isNone())
                <span class="attention">(settled by hand)</span>
            @endif
        </p>
    @endif
    @foreach ($sheet->points->remarks as $remark)
        <p class="muted">{{ $remark }}</p>
    @endforeach
</section>
<section>
    <h2>Checked before the run</h2>
    @php($look = $sheet->look())
    @if ($look === null)
        <p class="muted">Settle the order, and the server is asked.</p>
    @else
        <x-look id="server-found" :look="$look" :zone="$frame->zone" :url="$frame->url($frame->picker)" :action="$view->lookUrl()"
            :asked="['look' => 'server', 'show' => $frame->picker]" also="#foot:outerHTML,#server-notes:outerHTML">
            <x-check-list :lines="$sheet->checks()->lines ?? []" class="checks" />
        </x-look>
    @endif
</section>
