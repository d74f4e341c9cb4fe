<h2>
    Preview <kbd>p</kbd></h2>
<p>{{ $sheet->sentence($frame->zone) }}</p>
@php($look = $view->rowsLook())
@if ($look !== null)
    @php($rows = $view->rowsFound($look))
    <x-look id="rows-found" :look="$look" :zone="$frame->zone" :url="$frame->url('preview')" :action="$view->lookUrl()"
        :asked="['look' => 'rows', 'show' => 'preview']">
        @if ($rows->problem !== null)
            <p class="attention">{{ $rows->problem }}</p>
        @else
            <table class="list mb-3 w-auto">
                <thead>
                    <tr>
                        <th class="pe-4">Table</th>
                        <th class="num">Put in</th>
                        <th class="num">Set back</th>
                        <th class="num">Taken out</th>
                        <th class="num">Right already</th>
                        <th class="num">Left</th>
                        <th class="num">Changed since</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($rows->tables as $line)
                        <tr>
                            <td class="mono pe-4">{{ $line['schema'] }}.{{ $line['table'] }}</td>
                            @foreach (['insert', 'set_back', 'remove', 'same', 'left'] as $what)
                                <td class="num">{{ $line[$what] === 0 ? '' : number_format($line[$what]) }}</td>
                            @endforeach
                            <td class="num @if ($line['conflicts'] > 0) attention @endif">
                                {{ $line['conflicts'] === 0 ? '' : number_format($line['conflicts']) }}</td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            @foreach ($rows->impossible as $line)
                <p class="attention">{{ $line['table'] }}: {{ $line['because'] }}.</p>
            @endforeach
            @foreach ($rows->remarks as $remark)
                <p class="muted">{{ $remark }}</p>
            @endforeach
            @if ($rows->conflicts !== [])
                <h3 class="h6">Changed since: {{ $sheet->order->takeConflicts ? 'overwritten too' : 'left as they are' }}</h3>
                @include('kinds.database.conflicts', ['conflicts' => $rows->conflicts])
                <p><a href="{{ $frame->url('how') }}">Take these too</a></p>
            @endif
        @endif
    </x-look>
@else
    @php($lost = $sheet->lost())
    <h3 class="h6">What is at the server now</h3>
    <x-check-list :lines="$sheet->checks()->lines ?? []" class="mb-3" />
    <h3 class="h6">After the stop, by table{{ $sheet->order?->isInPlace() ? ': lost' : '' }}</h3>
    @if ($lost->tables === [])
        <p class="muted">Nothing that the logs hold.</p>
    @else<table class="list w-auto">
            <thead>
                <tr>
                    <th class="pe-4">Table</th>
                    <th class="num">Transactions</th>
                    <th class="num">Rows in</th>
                    <th class="num">Changed</th>
                    <th class="num">Out</th>
                </tr>
            </thead>
            <tbody>
                @foreach (array_slice($lost->tables, 0, 100, true) as $name => $of)
                    <tr>
                        <td class="mono pe-4">{{ $name }}</td>
                        @foreach ([$of->transactions, $of->inserted, $of->updated, $of->deleted] as $count)
                            <td class="num">{{ $count === 0 ? '' : number_format($count) }}</td>
                        @endforeach
                    </tr>
                @endforeach
            </tbody>
        </table>
    @endif
@endif
