@props(['frame', 'picker', 'key' => null, 'gap' => false])
@if ($frame->canWork)
    <a id="blank-{{ $picker }}-{{ $key ?? 'x' }}" href="{{ $frame->url($picker) }}"
    class="blank @if ($frame->picker === $picker) in-hand @endif @if ($gap) gap @endif">{{ $slot }}</a>@else<strong>{{ $slot }}</strong>@endif
