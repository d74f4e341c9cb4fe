@use('Kaiseki\Core\Catalog\Shown')
@props(['is', 'lost' => ''])
@php($why = $is->above(ltrim($lost, '/')))
@if ($lost !== '' && $why !== null)
    <p class="attention mb-1">Asked for: <span class="mono">{{ Shown::name($lost) }}</span>. It is left out of this point on purpose, by
        {{ $why->words() }}.</p>
@elseif ($is->all !== [])
    <p class="muted small mb-1">Left out of this point on purpose: {{ $is->words() }}.</p>
@endif
