@props(['frame', 'picker', 'key' => null, 'gap' => false])
@if ($frame->canWork)
    <a id="blank-{{ $picker }}-{{ $key ?? 'x' }}" href="{{ $frame->url($picker) }}"
    @class(['blank', 'in-hand' => $frame->picker === $picker, 'gap' => $gap])>{{ $slot }}</a>@else<strong>{{ $slot }}</strong>@endif
