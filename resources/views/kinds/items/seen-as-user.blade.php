@use('Carbon\CarbonImmutable')
@use('Kaiseki\Core\Proof\CheckLine')
@if ($seen !== null)
    <h3 class="h6 mt-3">Seen by signing in as {{ $seen['account'] }}</h3>
    <p class="muted mb-1"><x-moment :at="CarbonImmutable::parse($seen['at'])" :zone="auth()->user()->zone" />, by a password that
        {{ $seen['by'] }} gave for this once.</p>
    <x-check-list :lines="CheckLine::all($seen['checks'])" class="mb-3" />
@endif
