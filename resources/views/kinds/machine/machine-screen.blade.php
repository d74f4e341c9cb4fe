@if (!$view->mayLook())
    <p class="muted">You may not look into this machine.</p>
@elseif ($look?->looked_at === null)
    <p class="empty">Nobody has looked at it yet.</p>
@else
    <p class="muted small">As it was at <x-moment :at="$look->looked_at" :zone="$zone" :offset="false" />.
        @if ($look->agent !== null)
            Its agent {{ $look->agent['version'] }} answers: host <span class="mono">{{ $look->agent['host'] }}</span>,
            {{ $look->agent['system'] }}.
        @elseif ($look->screen !== null)
            No agent answers in it: sets of it while it runs are as after a power cut.
        @endif
    </p>
    @if ($look->screen !== null)
        <img class="screen" src="{{ $view->url() }}/screen?at={{ $look->looked_at->getTimestamp() }}" alt="The screen of {{ $view->name }}">
    @else
        <p class="empty">It was off.</p>
    @endif
    <h2>Serial line</h2>
    @if (trim((string) $look->serial) === '')
        <p class="empty">It said nothing there.</p>
    @else
        <pre class="serial" tabindex="0" aria-label="The end of its serial line">{{ $look->serial }}</pre>
    @endif
    @if ($view->mayType())
        @error('line')
            <p class="attention mb-1" role="alert">{{ $message }}</p>
        @enderror
        <form method="post" action="{{ $view->url() }}/type" class="inline" data-form="type">@csrf
            <label for="line">Type a line</label><input class="form-control w-auto mono" id="line" name="line" size="30" maxlength="200"
                value="{{ old('line') }}" autocomplete="off" spellcheck="false" required>
            <button class="btn btn-outline-primary btn-sm">Type it</button></form>
        <p class="muted small mb-0">It is kept in the trail, word for word: type no passwords.</p>
    @endif
@endif
