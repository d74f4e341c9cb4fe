@use('App\Kinds\Machines\Page\AnnexView')
@use('App\Kinds\Machines\Scan\AnnexFinding')
@use('App\Kinds\Machines\Scan\AnnexScan')
@use('App\Words')
@use('Kaiseki\Core\Catalog\Shown')
@php($scan = $view->scan)
<h3 class="h6 mt-3">Scanned</h3>
@if ($scan === null)
    <p class="muted mb-1">Nobody has looked through its files.</p>
@elseif ($scan->isAtWork())
    <p class="mb-1" role="status">It is being looked through: {{ $scan->words() }} so far.</p>
@elseif ($scan->state === AnnexScan::DONE)
    <p class="mb-1">{{ ucfirst($scan->words()) }}, {{ Words::size($scan->bytes) }}, <x-moment :at="$scan->ended_at" :zone="$zone" />.
        {{ $view->findings->isEmpty() ? 'None is on a list of what is known to be bad.' : '' }}</p>
@else
    <p class="attention mb-1">The last scan came to nothing: {{ $scan->failure ?? 'it was ended before it was through.' }}</p>
@endif
@if ($view->mayLook() && $view->findings->isNotEmpty())
    @error('verdict')
        <p class="attention mb-1" role="alert">{{ $message }}</p>
    @enderror
    <table class="list mb-2">
        <thead>
            <tr>
                <th class="pe-4">File</th>
                <th class="pe-4">Was found to be</th>
                <th class="num pe-4">Size</th>
                <th>Is</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($view->findings->take(AnnexView::MOST) as $finding)
                <tr>
                    <td class="mono pe-4">{{ $finding->shownPath() }}</td>
                    <td class="mono pe-4">{{ $finding->what }}</td>
                    <td class="num pe-4"><x-size :bytes="$finding->size" /></td>
                    <td>
                        @if ($finding->verdict !== null)
                            <span class="{{ $finding->verdict === AnnexFinding::BAD ? 'attention' : '' }}">{{ $finding->verdict }}</span>:
                            {{ $finding->why }}
                            <span class="muted small">({{ $finding->by_rule ? 'by rule'
                                : $finding->user->name ?? 'the command line' }})</span>
                        @elseif ($view->isOpen())
                            @can('stop', $view->annex->run)
                                <form method="post" action="/runs/{{ $view->annex->run_id }}/findings/{{ $finding->id }}"
                                    class="inline">@csrf
                                    <label for="why-{{ $finding->id }}">because</label><input class="form-control w-auto"
                                        id="why-{{ $finding->id }}" name="why" size="20" maxlength="300">
                                    <button class="btn btn-sm btn-outline-primary" name="verdict"
                                        value="{{ AnnexFinding::HARMLESS }}">It is harmless</button>
                                    <button class="btn btn-sm btn-outline-primary" name="verdict"
                                        value="{{ AnnexFinding::BAD }}">It is bad</button>
                                </form>
                            @else
                                <span class="attention">waits for a verdict</span>
                            @endcan
                        @else
                            nobody said
                        @endif
                    </td>
                </tr>
            @endforeach
        </tbody>
    </table>
@endif
@if ($view->mayLook() && ($scan?->not_looked ?? []) !== [])
    <details class="mb-2">
        <summary>{{ Words::count($scan->not_looked_count, 'thing') }} not looked into</summary>
        <ul class="plain-list">
            @foreach (array_slice($scan->not_looked, 0, AnnexView::MOST) as $left)
                <li><span class="mono">/{{ Shown::name(rawurldecode($left['path'])) }}</span>: {{ $left['because'] }}</li>
            @endforeach
        </ul>
    </details>
@endif
@if ($view->isOpen())
    @can('stop', $view->annex->run)
        @error('scan')
            <p class="attention mb-1" role="alert">{{ $message }}</p>
        @enderror
        @if ($scan?->isAtWork() !== true)
            <form method="post" action="/runs/{{ $view->annex->run_id }}/scan" class="mb-2">@csrf
                <button class="btn btn-sm btn-outline-primary" id="scan">{{ $scan === null ? 'Scan it' : 'Scan it again' }}</button>
            </form>
        @endif
    @endcan
@endif
