@use('App\Kinds\Machines\Page\LayoutDrawing')
@if ($drawing !== null)
    <svg width="100%" viewBox="0 0 {{ LayoutDrawing::WIDTH }} {{ LayoutDrawing::HEIGHT }}" role="img"
        aria-label="The disks as they were, above, and as they will be, below; the table has the same">
        @foreach ($drawing->ribbons as $ribbon)
            <polygon points="{{ $ribbon->points }}" fill="currentColor" opacity="0.07">
                <title>{{ $ribbon->title }}</title>
            </polygon>
        @endforeach
        @foreach ($drawing->disks as $disk)
            <rect x="{{ round($disk->x, 1) }}" y="{{ $disk->y }}" width="{{ round($disk->width, 1) }}"
                height="{{ LayoutDrawing::BAR }}" fill="none" stroke="currentColor" stroke-width="1" />
            <text x="{{ round($disk->x, 1) }}" y="{{ $disk->y === LayoutDrawing::TOP ? $disk->y - 7
                : $disk->y + LayoutDrawing::BAR + 16 }}" font-size="13" fill="currentColor">{{ $disk->words }}</text>
        @endforeach
        @foreach ($drawing->parts as $part)
            <rect x="{{ round($part->x, 1) }}" y="{{ $part->y }}" width="{{ round($part->width, 1) }}"
                height="{{ LayoutDrawing::BAR }}" fill="currentColor" stroke="currentColor"
                fill-opacity="{{ $part->shade() }}"><title>{{ $part->title }}</title></rect>
            @if ($part->words !== '')
                <text x="{{ round($part->x + 6, 1) }}" y="{{ $part->y + 18 }}" font-size="13" fill="currentColor"
                    >{{ $part->words }}</text>
            @endif
        @endforeach
    </svg>
@endif
