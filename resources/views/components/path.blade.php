@use('Kaiseki\Core\Catalog\Shown')
@props(['of'])
<span class="mono">/{{ Shown::name($of) }}</span>
