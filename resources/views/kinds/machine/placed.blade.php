@use('App\Words')
@php($placement = $sheet->placement())
@if ($placement !== null)
    @if (!$placement->isRecorded)
        <p class="assumed">This set does not say how the machine was configured: what stands here is assumed, from the machine that stands
            there, or from what is usual.</p>
    @endif
    @foreach ($placement->cautions() as $caution)
        <p class="assumed">{{ $caution }}</p>
    @endforeach
    @if ($placement->without !== [])
        <p class="assumed">No set has {{ implode(', ', $placement->without) }}, which the machine had: what is brought back comes
            without.</p>
    @endif
    @php($there = $placement->present())
    <table class="list w-auto mb-3">
        <thead>
            <tr>
                <th class="pe-4">{{ $placement->order->machine }} at {{ $placement->order->on }}</th>
                <th class="pe-4">As it will be</th>
                @if ($there !== null)
                    <th>As it stands there</th>
                @endif
            </tr>
        </thead>
        <tbody>
            @foreach ($placement->order->settings->words() as $what => $words)
                <tr>
                    <td class="pe-4">{{ $what }}</td>
                    <td class="pe-4">{{ $words }}</td>
                    @if ($there !== null)
                        <td @if ($there->settings->words()[$what] !== $words) class="changed" @endif>
                            {{ $there->settings->words()[$what] }}</td>
                    @endif
                </tr>
            @endforeach
            @if ($there !== null)
                <tr>
                    <td class="pe-4">now</td>
                    <td></td>
                    <td>{{ $there->isRunning() ? 'runs' : 'off' }}</td>
                </tr>
            @endif
        </tbody>
    </table>
    @foreach ($placement->needs() as $storage => $bytes)
        <p class="mb-1">Up to {{ Words::size($bytes) }} are written to the storage {{ $storage }}, which has
            {{ Words::size($placement->room->storage($storage)?->free ?? 0) }} free.</p>
    @endforeach
@endif
