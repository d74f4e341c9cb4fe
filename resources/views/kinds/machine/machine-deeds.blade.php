@php($isBusy = $look?->isWaiting() === true)
<div class="deeds mb-3" role="status"
    @if ($isBusy) hx-get="{{ $view->url() }}" hx-select="#main" hx-target="#main" hx-swap="outerHTML" hx-trigger="every 1s" @endif>
    @if ($isBusy)
        <span class="muted">It is being looked at.</span>
    @elseif ($look?->failure !== null)
        <span class="attention">{{ ucfirst($look->failure) }}.</span>
    @endif
    @if ($view->mayLook() && !$isBusy)
        <form class="d-inline" method="post" action="{{ $view->url() }}/look">@csrf
            <button class="btn btn-outline-primary btn-sm" data-key="l">Look at it now</button></form>
    @endif
    @if ($view->mayTurn() && !$isBusy && !$machine->isRunning())
        <form class="d-inline" method="post" action="{{ $view->url() }}/turn">@csrf
            <button class="btn btn-outline-secondary btn-sm" name="turn" value="start">Start it</button></form>
    @elseif ($view->mayTurn() && !$isBusy)
        <details class="turn">
            <summary>Turn it off</summary>
            <form method="post" action="{{ $view->url() }}/turn">@csrf
                <p>What it serves is not there any more then. Asked to shut down, it writes what it has to write first; with its power
                    cut, that is lost.</p>
                <button class="btn btn-outline-primary btn-sm" name="turn" value="stop">Shut {{ $view->name }} down</button>
                <button class="btn btn-outline-secondary btn-sm" name="turn" value="cut">Cut its power</button>
            </form>
        </details>
    @endif
</div>
