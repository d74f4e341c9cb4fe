@use('App\Kinds\Databases\Intake\HistoryBreaks')
@use('App\Words')
@php($outcome = $run->outcome ?? [])
@php($isByRows = in_array($run->plan['way'], ['rows', 'reverse'], true))
<x-run-page :run="$run" go-on="Run it again" go-on-hint="what is in place is gone on from; all else begins anew">
    <x-slot:came>{{ Words::count($outcome['rows_restored'] ?? 0, 'row') }} in
        {{ Words::count($outcome['tables_restored'] ?? 0, 'table') }}</x-slot:came>
    <x-slot:set-aside>{{ $isByRows ? 'the rows as they were before it' : 'what it replaced' }}</x-slot:set-aside>
    <x-slot:facts>
        @if ($run->state === 'done')
            <dt>Is now in</dt>
            <dd class="mono">{{ implode(', ', $run->plan['schemas']) }} on {{ $run->plan['server'] }}</dd>
            @if (($outcome['reached']['position'] ?? null) !== null)
                <dt>Stopped at</dt>
                @php($reached = $outcome['reached'])
                <dd class="mono">
                    {{ $reached['position'] }}{{ $reached['gtid'] === null ? '' : ", after {$reached['gtid']} of {$reached['at']}" }}
                </dd>
            @endif
            <dt>Was read</dt>
            <dd>
                @forelse ($outcome['read'] as $line)
                    <span
                        class="mono">{{ $line['set'] }}</span>{{ $line['logs'] === [] ? ''
                            : ' and ' . Words::count(count($line['logs']), 'log') }},
                    {{ Words::size($line['bytes']) }}@if (!$loop->last)
                        <br>
                    @endif
                @empty
                    the log that holds the transaction
                @endforelse
            </dd>
        @endif
    </x-slot:facts>
    <x-slot:back-told>{{ number_format($outcome['put_back']['returned'] ?? 0) }} {{ $isByRows ? 'rows' : 'tables' }} are as they
        were before it.</x-slot:back-told>
    <x-slot:back-means>
        <p class="mb-1">
            {{ $isByRows
                ? 'The rows that this run changed become what they were before it, if nobody changed them since; else nothing is done.'
                : 'The tables that this run replaced return to their place, all at once; what was written to the restored ones since is '
                    . 'lost.' }}
        </p>
    </x-slot:back-means>
    @if ($run->state === 'done')
        @foreach ($outcome['remarks'] as $remark)
            <p class="mb-1">{{ $remark }}</p>
        @endforeach
        @if (($outcome['break_at'] ?? null) !== null && $run->put_back_at === null && HistoryBreaks::since($run->workload))
            @can('tend', $run->workload)
                @php($store = $run->workload->usualStore())
                @if ($store !== null)
                    <form method="post" action="/workloads/{{ $run->workload_id }}/sets" class="mb-2">@csrf<input type="hidden"
                            name="level" value="full"><input type="hidden" name="store" value="{{ $store->id }}"><button
                            class="btn btn-sm btn-outline-primary" id="full-now">Make a full now</button> <span class="muted">on
                            {{ $store->name }}; it begins the new history</span></form>
                @endif
            @endcan
        @endif
        @if (($outcome['query'] ?? null) !== null)
            <h3 class="h6 mt-3">{{ $run->plan['query'] }}</h3>
            <div class="d-flex gap-4 flex-wrap">
                @foreach (['before', 'after'] as $when)
                    @php($answer = $outcome['query'][$when] ?? ['rows' => []])
                    <div>
                        <div class="muted">{{ $when }}</div>
                        @if (isset($answer['error']))
                        <p class="attention">{{ $answer['error'] }}</p>@else<table class="list w-auto">
                                <thead>
                                    <tr>
                                        @foreach (array_keys($answer['rows'][0] ?? []) as $column)
                                            <th class="pe-3">{{ $column }}</th>
                                        @endforeach
                                    </tr>
                                </thead>
                                <tbody>
                                    @foreach (array_slice($answer['rows'], 0, 20) as $row)
                                        <tr>
                                            @foreach ($row as $value)
                                                <td class="mono pe-3">{{ $value ?? 'NULL' }}</td>
                                            @endforeach
                                        </tr>
                                    @endforeach
                                </tbody>
                            </table>
                        @endif
                    </div>
                @endforeach
            </div>
        @endif
        @if (($outcome['by_table'] ?? []) !== [])
            <h3 class="h6 mt-3">Rows</h3>
            <table class="list w-auto mb-2">
                <thead>
                    <tr>
                        <th class="pe-4">Table</th>
                        <th class="num">Put in</th>
                        <th class="num">Set back</th>
                        <th class="num">Taken out</th>
                        <th class="num">Right already</th>
                        <th class="num">Changed since</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($outcome['by_table'] as $line)
                        <tr>
                            <td class="mono pe-4">{{ $line['schema'] }}.{{ $line['table'] }}</td>
                            @foreach (['insert', 'set_back', 'remove', 'same', 'conflicts'] as $what)
                                <td class="num">{{ $line[$what] === 0 ? '' : number_format($line[$what]) }}</td>
                            @endforeach
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        @if (($outcome['conflicts'] ?? []) !== [])
            <details class="mb-2">
                <summary>Rows that were changed since, and are left:
                    {{ number_format($outcome['rows']['conflicts'] ?? count($outcome['conflicts'])) }}</summary>
                @include('kinds.database.conflicts', ['conflicts' => $outcome['conflicts']])
            </details>
        @endif
        @foreach ($outcome['contents'] ?? [] as $schema => $contents)
            <details class="mb-2">
                <summary>Rows and checksums of {{ $schema }}</summary>
                <table class="list w-auto">
                    <tbody>
                        @foreach ($contents as $table => $is)
                            <tr>
                                <td class="mono pe-4">{{ $table }}</td>
                                <td class="num pe-4">{{ number_format($is['rows']) }}</td>
                                <td class="mono">{{ $is['checksum'] ?? 'not compared' }}</td>
                            </tr>
                        @endforeach
                    </tbody>
                </table>
            </details>
        @endforeach
    @endif
</x-run-page>
