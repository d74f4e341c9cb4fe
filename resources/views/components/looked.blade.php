@props(['at', 'busy', 'zone', 'url' => null, 'part' => '#main'])
<div class="muted small mb-3" role="status"
    @if ($busy && $url !== null) hx-get="{{ $url }}" hx-select="{{ $part }}" hx-target="{{ $part }}" hx-swap="outerHTML"
    hx-trigger="every 2s" @endif>
    @if ($at !== null)
        As it was at <x-moment :at="$at" :zone="$zone" :offset="false" />{{ $busy ? '; it is being looked at again.' : '.' }}
    @elseif ($busy)
        It is being looked at.
    @endif
    @if (!$busy)
        <form class="d-inline" method="post" action="/look-again">@csrf<button class="link">Look again</button></form>
    @endif
</div>
