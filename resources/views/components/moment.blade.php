{{-- It stands within sentences: nothing may come after its end, a line break neither. --}}
@use('App\Words')
@props(['at', 'zone', 'offset' => true])
<time class="mono" datetime="{{ $at->utc()->format('Y-m-d\TH:i:s\Z') }}"
    title="{{ $at->utc()->format('D j M Y H:i:s') }} UTC">{{ Words::moment($at, $zone, $offset) }}</time>