@use('App\View\TrendLine')
@use('App\Words')
@if ($measured === null)<span class="muted">not yet</span>@else<span
        title="{{ Words::count($measured->count, 'run') }}; most between {{ round($measured->low, 1) }} and {{ round($measured->high,
            1) }} MB/s">{{ round($measured->likely, 1) }}
        MB/s</span>@php($path = TrendLine::path($past))@if ($path !== '')
        <svg class="rate-line" viewBox="0 0 {{ TrendLine::WIDTH }} {{ TrendLine::HEIGHT }}" role="img"
            aria-label="The last {{ count($past) }} runs, from {{ round(min($past), 1) }} to {{ round(max($past), 1) }} MB/s">
            <path d="{{ $path }}" />
        </svg>
    @endif
@endif
