@use('App\Sets\LeftOut')
@use('Kaiseki\Core\Catalog\Shown')
@props(['set', 'lost' => null])
@php($leftOut = LeftOut::ofSet($set))
@php($why = $lost === null ? null : $leftOut->above(ltrim($lost, '/')))
@if ($why !== null)
    <p class="attention mb-1">Asked for: <span class="mono">{{ Shown::name($lost) }}</span>. It is left out of this point on purpose, by
        {{ $why->words() }}.</p>
@elseif ($leftOut->all !== [])
    <p class="muted small mb-1">Left out of this point on purpose: {{ $leftOut->words() }}.</p>
@endif
