@use('App\Words')
<td class="tight pe-4">
    @if ($isFirst)
        {{ $host->name }}
        <div class="muted small">{{ $host->site }}
            @if ($host->seen_at !== null)
                <x-moment :at="$host->seen_at" :zone="$zone" :offset="false" />
            @endif
        </div>
    @endif
</td>
<td class="tight pe-4">
    @if ($isFirst && $host->silent !== null)
        <span class="attention">does not answer since <x-moment :at="$host->silent_since" :zone="$zone" :offset="false" /></span>
    @elseif ($isFirst && $host->lastSeen() !== null)
        {{ $host->lastSeen()->room->memoryFree }} of {{ $host->lastSeen()->room->memory }} MiB
        @foreach ($host->lastSeen()->room->storages as $storage)
            <div class="muted small">{{ $storage->name }}: {{ Words::size($storage->free) }} of {{ Words::size($storage->size) }}</div>
        @endforeach
    @endif
</td>
