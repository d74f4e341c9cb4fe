@use('App\Trees\Catalog\VersionRow')
@use('App\View\VersionsView')
@use('App\Words')
@use('Illuminate\Support\Str')
@use('Kaiseki\Core\Archive\EntryKind')
@use('Kaiseki\Core\Catalog\Shown')
@php($workload = $view->workload)
@php($zone = $view->zone)
@php($good = $view->lastGood())
@php($live = $view->live())
@php($query = rawurlencode($view->path))
<x-layout :title="'Versions of ' . Shown::name(basename($view->path))" here="Estate">
    <main id="main" class="page">
        <h1 class="mono fs-5">/{{ Shown::name($view->path) }} <span class="muted fs-6 fw-normal">of <a class="text-decoration-underline"
                    href="/workloads/{{ $workload->id }}">{{ $workload->name }}</a></span></h1>
        @php($last = $view->last())
        <p>{{ Words::count(count($view->versions), 'version') }} in {{ Words::count(count($view->points->sets), 'point') }};
            {{ $last->until === PHP_INT_MAX ? 'still there at the newest point'
                : 'gone since ' . Words::instant($last->until, $zone) }}.
            @if ($workload->source !== null)
                On the host now:
                {{ $view->liveInWords() }}.
            @endif
        </p>
        @if ($good !== null)
            <p class="attention">Likely the last good version: the one of <a class="text-decoration-underline"
                    href="#version-{{ $good->version->id }}">{{ Words::instant($good->version->first, $zone) }}</a>;
                {{ $good->after }}.</p>
        @endif
        @foreach ($view->elsewhere() as $other)
            <p class="mb-1">The same content {{ $last->until === PHP_INT_MAX ? 'is also' : 'turned up' }} as <a
                    class="text-decoration-underline"
                    href="/workloads/{{ $workload->id }}/versions?path={{ rawurlencode($other->path) }}"><x-path
                        :of="$other->path" /></a>{{ $last->until !== PHP_INT_MAX && $other->first === $last->until
                            ? ', at the very point at which it vanished here: it was renamed or moved'
                            : ' since ' . Words::instant($other->first, $zone, false) }}.
            </p>
        @endforeach
        @php([$from, $to] = $view->axis())
        <svg class="life" viewBox="0 -14 {{ VersionsView::WIDTH }} 52" preserveAspectRatio="none" role="group"
            aria-label="Its versions from the first point to the newest">
            <line x1="0" x2="{{ VersionsView::WIDTH }}" y1="24" y2="24" class="ground" />
            @foreach ($view->strip() as $bar)
                <a href="#version-{{ $bar->version->id }}"
                    aria-label="Version of {{ Words::instant($bar->version->first, $zone) }}">
                    <rect x="{{ $bar->x }}" y="{{ $bar->isOdd ? 4 : 0 }}" width="{{ $bar->width }}"
                        height="{{ $bar->isOdd ? 20 : 24 }}"
                        class="version {{ $view->markOf($bar->version, $good?->version) }}">
                        <title>{{ Words::instant($bar->version->first, $zone) }}:
                            {{ Words::size(max(0, $bar->version->version->size)) }}</title>
                    </rect>
                </a>
            @endforeach
        </svg>
        <p class="ends muted small">
            <span>{{ Words::instant($from, $zone,
                false) }}</span><span>{{ Words::instant($to, $zone, false) }}</span>
        </p>
        <form method="get" action="/workloads/{{ $workload->id }}/compare"><input type="hidden" name="path"
                value="{{ $view->path }}">
            <table class="list">
                <thead>
                    <tr>
                        <th>Since</th>
                        <th>Until</th>
                        <th class="num">Points</th>
                        <th class="num">Size</th>
                        <th>Changed</th>
                        <th>Who may</th>
                        <th class="num">Entropy</th>
                        <th>Digest</th>
                        <th>Compare</th>
                        <th><span class="visually-hidden">What to do</span></th>
                    </tr>
                </thead>
                <tbody>
                    @foreach (array_reverse($view->versions) as $i => $version)
                        @php($point = $view->pointOf($version))
                        @php($isFile = $version->version->kind === EntryKind::File)
                        <tr id="version-{{ $version->id }}" class="@if ($view->isGood($version)) chosen @endif">
                            <td class="tight mono">
                                {{ Words::instant($version->first, $zone, false) }}
                            </td>
                            <td class="tight mono">
                                {{ $version->until === PHP_INT_MAX ? 'now'
                                    : Words::instant($version->until, $zone, false) }}
                            </td>
                            <td class="num">{{ $view->points($version) }}</td>
                            <td class="num">
                                @if ($isFile && $version->version->size >= 0)
                                    <x-size :bytes="$version->version->size" />@else{{ $isFile ? 'unknown'
                                        : VersionRow::kind($version->version) }}
                                @endif
                            </td>
                            <td class="tight mono">
                                {{ Words::changed($version->version->mtime, $zone, 'Y-m-d H:i:s') }}
                            </td>
                            <td class="tight mono" title="{{ $version->version->access }}">
                                {{ VersionsView::permissions($version->version) }}</td>
                            <td class="num">{{ VersionsView::entropy($version->version) }}</td>
                            <td class="tight mono" title="{{ bin2hex((string) $version->version->digest) }}">
                                {{ substr(bin2hex((string) $version->version->digest), 0, 12) }}</td>
                            <td class="tight">
                                @if ($isFile)
                                    <label class="me-2"><input type="radio" name="old" value="{{ $version->id }}"
                                            @checked($i === 1 || count($view->versions) === 1)> this</label><label><input type="radio"
                                                name="new"
                                            value="{{ $version->id }}" @checked($i === 0 && count($view->versions) > 1)> with this</label>
                                @endif
                            </td>
                            <td class="tight">
                                @if ($isFile && $point !== null && $version->version->size >= 0)
                                    <a data-row href="/sets/{{ $point->id }}/look?path={{ $query }}">look at it</a>
                                @endif
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            <p class="mt-2"><button class="btn btn-sm btn-outline-primary">Compare the two</button>
                @if ($live !== null)
                    <button class="btn btn-sm btn-outline-primary" name="new" value="live">Compare “this” with what is there
                        now</button>
                @endif
            </p>
        </form>
        @php($requests = $view->requests())
        @if ($requests->isNotEmpty())
            @php($for = $view->forRequest($requests))
            <h2>Pick a version for {{ $for === null ? 'a request' : "request {$for->id}" }}</h2>
            @if ($for !== null)
                <p class="mb-1">{{ $for->summary }}</p>
                <form method="post" action="/requests/{{ $for->id }}/version" class="line-form mb-1">@csrf<input type="hidden"
                        name="path" value="{{ $query }}"><label class="visually-hidden" for="take">Version</label><select
                        class="form-select w-auto" id="take" name="set">
                        @foreach (array_reverse($view->versions) as $version)
                            @php($point = $view->pointOf($version))
                            @if ($point !== null)
                                <option value="{{ $point->id }}" @selected($view->isGood($version))>as of
                                    {{ Words::instant($version->first, $zone, false) }},
                                    {{ Words::size(max(0, $version->version->size)) }}</option>
                            @endif
                        @endforeach
                    </select> <button class="btn btn-sm btn-primary">Pick it</button></form>
            @endif
            @if ($for === null || $requests->count() > 1)
                <form method="get" action="/workloads/{{ $workload->id }}/versions" class="line-form mb-1"><input type="hidden"
                        name="path" value="{{ $view->path }}"><label class="visually-hidden" for="for-request">Request</label><select
                        class="form-select w-auto" id="for-request" name="request">
                        @foreach ($requests as $request)
                            <option value="{{ $request->id }}" @selected($request->id === $for?->id)>request {{ $request->id }},
                                {{ Str::limit($request->summary, 60) }}</option>
                        @endforeach
                    </select> <button class="btn btn-sm btn-outline-primary">{{ $for === null ? 'For this one'
                        : 'For this one instead' }}</button></form>
            @endif
        @endif
    </main>
</x-layout>
