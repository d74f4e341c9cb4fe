@props(['view', 'picker', 'key' => null, 'gap' => false])
@if ($view->canWork)<a id="blank-{{ $picker }}-{{ $key ?? 'x' }}" href="{{ $view->url($picker) }}" class="blank @if ($view->picker === $picker) in-hand @endif @if ($gap) gap @endif">{{ $slot }}</a>@else<strong>{{ $slot }}</strong>@endif
