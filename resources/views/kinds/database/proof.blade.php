<x-proof-page :evidence="$evidence" :sound="$sound" :key="$key" :signature="$signature">
    <x-slot:point>
        <tr>
            <th>Workload, dump</th>
            <td>{{ $evidence['workload'] }}, <span class="mono">{{ $evidence['point'] }}</span></td>
        </tr>
    </x-slot:point>
    <x-slot:facts>
        <tr>
            <th>Into</th>
            <td class="mono">{{ implode(', ', $evidence['schemas']) }} on {{ $evidence['server'] }}</td>
        </tr>
        @if ($evidence['stop']['position'] !== null)
            <tr>
                <th>Stopped at</th>
                <td class="mono">
                    {{ $evidence['stop']['position'] }}{{ $evidence['stop']['gtid'] === null ? ''
                        : ", after {$evidence['stop']['gtid']} of {$evidence['stop']['at']}" }}
                </td>
            </tr>
        @endif
        <tr>
            <th>Came back</th>
            <td>{{ number_format($evidence['rows']) }} rows</td>
        </tr>
    </x-slot:facts>
    @foreach ($evidence['remarks'] as $remark)
        <p>{{ $remark }}</p>
    @endforeach
    <h2>Read, as it really was</h2>
    <table>
        @foreach ($evidence['read'] as $line)
            <tr>
                <th class="mono">{{ $line['set'] }}</th>
                <td class="mono">{{ implode(', ', $line['logs']) }}</td>
                <td>{{ number_format($line['bytes']) }} bytes</td>
            </tr>
        @endforeach
    </table>
    @foreach ($evidence['contents'] as $schema => $contents)
        <h2>Rows and checksums of {{ $schema }} (CHECKSUM TABLE)</h2>
        <table>
            @foreach ($contents as $table => $is)
                <tr>
                    <td class="mono">{{ $table }}</td>
                    <td>{{ number_format($is['rows']) }}</td>
                    <td class="mono">{{ $is['checksum'] ?? 'not compared' }}</td>
                </tr>
            @endforeach
        </table>
    @endforeach
    @if ($evidence['row_changes'] !== [])
        <h2>Rows</h2>
        <table>
            <thead>
                <tr>
                    <th>Table</th>
                    <th>Put in</th>
                    <th>Set back</th>
                    <th>Taken out</th>
                    <th>Right already</th>
                    <th>Changed since</th>
                </tr>
            </thead>
            @foreach ($evidence['row_changes'] as $line)
                <tr>
                    <td class="mono">{{ $line['schema'] }}.{{ $line['table'] }}</td>
                    @foreach (['insert', 'set_back', 'remove', 'same', 'conflicts'] as $what)
                        <td>{{ number_format($line[$what]) }}</td>
                    @endforeach
                </tr>
            @endforeach
        </table>
    @endif
    @if ($evidence['question'] !== '')
        <h2>{{ $evidence['question'] }}</h2>
        @foreach ($evidence['answers'] as $when => $answer)
            <p>{{ $when }}: <span
                    class="mono">{{ $answer['error'] ?? json_encode($answer['rows'], JSON_UNESCAPED_UNICODE) }}</span></p>
        @endforeach
    @endif
    <x-slot:how>CHECKSUM TABLE on the server gives the sums above while nobody has written to the tables.</x-slot:how>
</x-proof-page>
