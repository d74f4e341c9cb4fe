@props(['bytes'])
<span title="{{ number_format($bytes) }} bytes">{{ \App\View\Words::size($bytes) }}</span>
