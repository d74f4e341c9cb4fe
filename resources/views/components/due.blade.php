@props(['at', 'zone'])
@php($left = now()->diffInSeconds($at))
<span class="due @if ($left < 7200) soon @endif">due {{ $at->setTimezone($zone)->format($at->setTimezone($zone)->isSameDay(now($zone)) ? 'H:i' : 'D j M H:i') }}, {{ $left < 0 ? \App\View\Words::duration(-$left).' ago' : 'in '.\App\View\Words::duration($left) }}</span>
