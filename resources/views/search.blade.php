@use('App\Words')
@use('Kaiseki\Core\Archive\EntryKind')
@php($zone = auth()->user()->zone)
<x-layout title="Search">
    <main id="main" class="page">
        <h1>Search</h1>
        <form method="get" action="/search" class="inline mb-3">@include('search-fields')
            @if ($mayBrowse)<label class="visually-hidden"
                    for="find-workload">Workload</label><select class="form-select" id="find-workload" name="workload">
                    <option value="">all workloads</option>
                    @foreach ($all as $workload)
                        <option value="{{ $workload->id }}"
                            @selected((int) request('workload') === $workload->id)>{{ $workload->name }}</option>
                    @endforeach
                </select>
            @endif
            <button class="btn btn-sm btn-primary">Search</button>
        </form>
        @if ($form->problem !== null)
            <p class="attention">{{ $form->problem }}</p>
        @endif
        @if ($isBehind)
            <p class="assumed">Some sets are so new that the words in them are still being taken up.</p>
        @endif
        @if ($form->isEmpty() && $form->problem === null)
            <p class="empty">Type a part of a name; * and ? stand for any letters, and then the whole name must fit. Words are looked
                for in plain text, tables and office documents.</p>
        @endif
        @if ($requests->isNotEmpty())
            <h2>Requests</h2>
            <table class="list">
                <tbody>
                    @foreach ($requests as $request)
                        <tr>
                            <td class="tight"><a data-row href="/requests/{{ $request->id }}">{{ $request->id }}</a></td>
                            <td>{{ $request->summary }}</td>
                            <td class="tight">{{ $request->requester->name }}</td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        @if ($workloads->isNotEmpty())
            <h2>Workloads</h2>
            <table class="list">
                <tbody>
                    @foreach ($workloads as $workload)
                        <tr>
                            <td class="tight"><a data-row href="/workloads/{{ $workload->id }}">{{ $workload->name }}</a></td>
                            <td>{{ $workload->kind }} at {{ $workload->site }}</td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        @if ($cartridges !== [])
            <h2>Cartridges</h2>
            <table class="list">
                <tbody>
                    @foreach ($cartridges as ['store' => $store, 'cartridge' => $cartridge])
                        <tr>
                            <td class="tight"><a data-row class="mono"
                                    href="/stores/{{ $store->name }}/cartridges/{{ $cartridge->label }}">{{ $cartridge->label }}</a>
                            </td>
                            <td>{{ $store->name }}, {{ $cartridge->isOnShelf() ? 'on the shelf' : 'in slot ' . $cartridge->slot }}
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        @if ($hits !== [])
            <h2>In the catalog</h2>
            <table class="list">
                <thead>
                    <tr>
                        <th>Path</th>
                        <th>Workload</th>
                        <th class="num">Size</th>
                        <th class="num">Versions</th>
                        <th>First seen</th>
                        <th>Last seen</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($hits as $hit)
                        <tr>
                            <td><a data-row class="text-reset"
                                    href="/workloads/{{ $hit->workload->id }}/versions?path={{ rawurlencode($hit->newest->path) }}"><x-path
                                        :of="$hit->newest->path" /></a>
                                @if ($hit->line !== null)
                                    <span class="d-block muted small">{{ $hit->line }}</span>
                                @endif
                            </td>
                            <td class="tight">{{ $hit->workload->name }}</td>
                            <td class="num">
                                @if ($hit->newest->version->size >= 0 && $hit->newest->version->kind === EntryKind::File)
                                    <x-size :bytes="$hit->newest->version->size" />
                                @endif
                            </td>
                            <td class="num">{{ $hit->versions }}</td>
                            <td class="tight mono">
                                {{ Words::instant($hit->first, $zone, false) }}</td>
                            <td class="tight mono">
                                {{ $hit->newest->until === PHP_INT_MAX ? 'still there'
                                    : 'gone by ' . Words::instant($hit->newest->until, $zone, false) }}
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            @if (count($hits) >= 200)
                <p class="muted">The first 200; narrow it to see others.</p>
            @endif
        @elseif (!$form->isEmpty() && $form->problem === null && $requests->isEmpty() && $workloads->isEmpty() && $cartridges === [])
            <p class="empty">Nothing like that was ever in a set. A shorter part of the name, or fewer words, find more.</p>
        @endif
    </main>
</x-layout>
