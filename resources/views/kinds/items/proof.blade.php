@use('App\Kinds\Items\Order\ItemCount')
@use('App\Trees\Run\PathInJson')
@use('Kaiseki\Core\Catalog\Shown')
@use('Kaiseki\Core\Proof\CheckLine')
<x-proof-page :evidence="$evidence" :sound="$sound" :key="$key" :signature="$signature">
    <x-slot:facts>
        <tr>
            <th>Into</th>
            <td class="mono">
                @if ($evidence['server'] !== null)
                    {{ $evidence['server'] }}, {{ $evidence['mailbox'] === '' ? 'the mailbox of each' : $evidence['mailbox'] }},
                    {{ $evidence['folder'] === '' ? 'the folder of each' : $evidence['folder'] }}
                @elseif (($evidence['sent_to'] ?? null) !== null)
                    a message to {{ $evidence['sent_to'] }}
                @else
                    {{ Shown::name(PathInJson::parse($evidence['target'])) }}
                @endif
            </td>
        </tr>
        <tr>
            <th>Came back</th>
            <td>{{ ItemCount::came($evidence) }}, {{ number_format($evidence['bytes']) }} bytes;
                {{ number_format($evidence['there_already']) }} lay there already</td>
        </tr>
        @if (($evidence['set_aside'] ?? 0) > 0)
            <tr>
                <th>Set aside</th>
                <td>{{ number_format($evidence['set_aside']) }} that stood there, and were kept for a time</td>
            </tr>
        @endif
    </x-slot:facts>
    <h2>By folder</h2>
    <table>
        @foreach ($evidence['folders'] as $folder => $count)
            <tr>
                <td class="mono">{{ $folder }}</td>
                <td>{{ number_format($count) }}</td>
            </tr>
        @endforeach
    </table>
    @if ($evidence['seen_as_user'] !== null)
        <h2>Seen by signing in as {{ $evidence['seen_as_user']['account'] }}, {{ $evidence['seen_as_user']['at'] }}</h2>
        <table>
            @foreach (CheckLine::all($evidence['seen_as_user']['checks']) as $line)
                <tr>
                    <td>{{ $line->check }}</td>
                    <td class="{{ $line->isFailed() ? 'bad' : '' }}">{{ $line->result }}: {{ $line->detail }}</td>
                </tr>
            @endforeach
        </table>
    @endif
    <x-slot:more>
        @if ($evidence['left_out'] !== [])
            <h2>Did not come back ({{ number_format($evidence['left_out_count']) }})</h2>
            <table>
                @foreach ($evidence['left_out'] as $row)
                    <tr>
                        <td>{{ $row['path'] }}</td>
                        <td class="{{ $row['loss'] ? 'bad' : '' }}">{{ $row['because'] }}</td>
                    </tr>
                @endforeach
            </table>
        @endif
    </x-slot:more>
    <x-slot:how>The digest of a message is BLAKE2b-256 of its bytes with every line ended by a newline alone: <span class="mono">tr -d
            '\r' | b2sum --length=256</span> gives it where no line holds another carriage return. That of an appointment or a contact is
        taken of its fields in one order, since servers write them in another; the source of each stands in the set.</x-slot:how>
</x-proof-page>
