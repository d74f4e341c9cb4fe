{{-- It stands within sentences: nothing may come after its end, a line break neither. --}}
@use('App\Words')
@props(['at', 'zone', 'word' => 'due '])
@php($left = now()->diffInSeconds($at))
<span
    class="due @if ($left < 7200) soon
        @endif">{{ $word }}{{ $at->setTimezone($zone)->format($at->setTimezone($zone)->isSameDay(now($zone)) ? 'H:i' : 'D j M H:i') }},
    {{ $left < 0 ? Words::duration(-$left) . ' ago' : 'in ' . Words::duration($left) }}</span>