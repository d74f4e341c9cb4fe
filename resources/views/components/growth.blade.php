@use('App\Words')
@props(['bytes'])
@if ($bytes === null)
    <span class="muted">not known</span>
@elseif ($bytes === 0)
    <span class="muted">as much</span>
@else
    <span title="{{ number_format($bytes) }} bytes">{{ $bytes > 0 ? '+' : '−' }}{{ Words::size(abs($bytes)) }}</span>
@endif
