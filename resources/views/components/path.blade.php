@props(['of'])
<span class="mono">/{{ \Kaiseki\Core\Catalog\Shown::name($of) }}</span>
