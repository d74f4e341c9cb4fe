@use('App\View\TrendLine')
@use('App\Words')
@props(['line'])
@php($path = TrendLine::path($line->values()))
@if ($path !== '')
    <svg class="rate-line" viewBox="0 0 {{ TrendLine::WIDTH }} {{ TrendLine::HEIGHT }}" role="img"
        aria-label="Over {{ count($line->days) }} days, from {{ Words::size($line->values()[0]) }} to {{ Words::size($line->bytes) }}">
        <path d="{{ $path }}" />
    </svg>
@endif
