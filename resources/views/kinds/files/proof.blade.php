@use('App\Trees\Run\PathInJson')
@use('App\Words')
@use('Kaiseki\Core\Catalog\Shown')
<x-proof-page :evidence="$evidence" :sound="$sound" :key="$key" :signature="$signature">
    <x-slot:facts>
        <tr>
            <th>Into</th>
            <td class="mono">
                {{ $evidence['download'] !== '' ? 'a download (' . $evidence['download'] . ')' : ($evidence['host'] === null ? ''
                    : $evidence['host'] . ':') . Shown::name(PathInJson::parse($evidence['target'])) }}
            </td>
        </tr>
        <tr>
            <th>Came back</th>
            <td>{{ Words::count($evidence['files'], 'file') }} of
                {{ Words::count($evidence['entries'], 'entry', 'entries') }}, {{ number_format($evidence['bytes']) }} bytes</td>
        </tr>
        <tr>
            <th>Selected</th>
            <td class="mono">
                @foreach (array_slice($evidence['paths'], 0, 40) as $row)
                    {{ PathInJson::shown($row) }}
                    <br>
                    @endforeach @if (count($evidence['paths']) > 40)
                        and {{ count($evidence['paths']) - 40 }} more
                    @endif
            </td>
        </tr>
    </x-slot:facts>
    <h2>Read, as it really was</h2>
    <table>
        <thead>
            <tr>
                <th>Set</th>
                <th>Store</th>
                <th>Members</th>
                <th>Bytes</th>
            </tr>
        </thead>
        @foreach ($evidence['read'] as $line)
            <tr>
                <td class="mono">{{ $line['set'] }}</td>
                <td>{{ $line['store'] }}</td>
                <td>{{ number_format($line['members']) }}</td>
                <td>{{ number_format($line['bytes']) }}</td>
            </tr>
        @endforeach
    </table>
    <x-slot:more>
        @if ($evidence['commands'] !== [])
            <h2>Commands on the host</h2>
            <table>
                @foreach ($evidence['commands'] as $command)
                    <tr>
                        <th>{{ $command['when'] }}</th>
                        <td class="mono">{{ implode(' ', $command['command']) }}</td>
                        <td>{{ $command['exit'] === null ? 'did not end by itself' : 'ended with ' . $command['exit'] }},
                            {{ $command['seconds'] }} s</td>
                        <td class="mono">{{ $command['output'] }}</td>
                    </tr>
                @endforeach
            </table>
        @endif
        @foreach (['differences' => ['Not as in the catalog', 'difference_count'], 'left_out' => ['Did not come back',
            'left_out_count']] as $name => [$title, $count])
            @if ($evidence[$name] !== [])
                <h2>{{ $title }} ({{ number_format($evidence[$count]) }})</h2>
                <table>
                    @foreach (array_slice($evidence[$name], 0, 200) as $row)
                        <tr>
                            <td class="mono">{{ PathInJson::shown($row) }}</td>
                            <td class="{{ $row['loss'] ? 'bad' : '' }}">{{ $row['because'] }}</td>
                        </tr>
                    @endforeach
                </table>
            @endif
        @endforeach
        @if ($evidence['from_other_points'] !== [])
            <h2>From other points</h2>
            <table>
                @foreach (array_slice($evidence['from_other_points'], 0, 200) as $row)
                    <tr>
                        <td class="mono">{{ PathInJson::shown($row) }}</td>
                        <td class="mono">{{ $row['point'] }}</td>
                        <td>{{ $row['because'] }}</td>
                    </tr>
                @endforeach
            </table>
        @endif
    </x-slot:more>
    <x-slot:how>Each file that came back is in the manifest, which <span class="mono">b2sum --length=256 --check</span> reads
        in the target;
        the entries with size, mode and time are in the list of entries.</x-slot:how>
    <x-slot:digests>
        <tr>
            <th>Manifest</th>
            <td class="mono">BLAKE2b-256 {{ $evidence['manifest_blake2b_256'] }}</td>
        </tr>
        <tr>
            <th>Entries</th>
            <td class="mono">BLAKE2b-256 {{ $evidence['entries_blake2b_256'] }}</td>
        </tr>
    </x-slot:digests>
</x-proof-page>
