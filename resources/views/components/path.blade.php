{{-- It stands within sentences: nothing may come after its end, a line break neither. --}}
@use('Kaiseki\Core\Catalog\Shown')
@props(['of'])
<span class="mono">/{{ Shown::name($of) }}</span>