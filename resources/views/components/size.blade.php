@props(['bytes'])
<span title="{{ number_format($bytes) }} bytes">{{ \App\Words::size($bytes) }}</span>
