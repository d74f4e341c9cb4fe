@use('App\View\TrendLine')
@props(['line', 'words'])
@if ($line->path() !== '')
    <svg class="rate-line" viewBox="0 0 {{ TrendLine::WIDTH }} {{ TrendLine::HEIGHT }}" role="img" aria-label="{{ $words }}">
        <path d="{{ $line->path() }}" />
    </svg>
@endif
