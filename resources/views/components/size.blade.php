@use('App\Words')
@props(['bytes'])
<span title="{{ number_format($bytes) }} bytes">{{ Words::size($bytes) }}</span>
