@use('App\Words')
@use('Kaiseki\Core\Catalog\Shown')
@use('Kaiseki\Core\Files\Deed')
@php($preview = $view->seenNow())
<x-run-picker :frame="$frame" :sheet="$sheet" :confirm="$sheet->destination->isDownload() ? 'Yes, make it ready' : null"
    :can-save-first="$sheet->canSaveFirst()" :save-first="($preview->present ?? 0) > 0">
    @if ($sheet->target !== null)
        <p class="mono">
            {{ $sheet->destination->host === null ? '' : $sheet->destination->host->name . ':' }}{{ Shown::name($sheet->target) }}
        </p>
    @endif
    @if ($preview === null || $preview->present === 0)
        <p>Nothing that is there now will be touched.</p>
    @else
        <p class="attention">{{ Words::count($preview->present, 'thing stands', 'things stand') }} there already:
            @foreach ($preview->counts as $deed => $count)
                @if ($count->entries > 0 && !in_array($deed, ['added', 'left-alone'], true))
                    {{ number_format($count->entries) }} {{ Deed::from($deed)->words() }};
                @endif
            @endforeach
            <a href="{{ $frame->url('preview') }}">see each</a>.
        </p>
    @endif
    @foreach ($preview->open ?? [] as $line)
        <p class="attention mb-1"><x-path :of="$line->path" /> is open for writing in {{ $line->openIn }}.</p>
    @endforeach
</x-run-picker>
