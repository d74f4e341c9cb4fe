{{-- It stands within sentences: nothing may come after its end, a line break neither. --}}
@use('App\Words')
@props(['bytes'])
<span title="{{ number_format($bytes) }} bytes">{{ Words::size($bytes) }}</span>