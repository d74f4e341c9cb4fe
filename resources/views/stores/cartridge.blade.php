@use('App\Words')
<x-layout :title="'Cartridge ' . $cartridge->label" here="Stores">
    <main id="main" class="page">
        <h1>Cartridge <span class="mono">{{ $cartridge->label }}</span></h1>
        <p>Of {{ $store->name }} at {{ $store->site }},
            {{ $cartridge->isOnShelf() ? 'on the shelf outside the library' : 'in slot ' . $cartridge->slot . ' of the library' }};
            <x-size :bytes="$cartridge->used" /> of <x-size :bytes="$cartridge->capacity" /> used. <a class="text-decoration-underline"
                href="/stores"
                data-key="Backspace">All stores</a></p>
        @if ($canHandle)
            @if ($cartridge->isOnShelf())
                <form method="post" action="/stores/{{ $store->name }}/cartridges/{{ $cartridge->label }}">@csrf
                    @if ($calls->firstWhere('arrived_at', null) === null)
                        <button class="btn btn-outline-primary" name="do" value="call">Ask for it</button>
                    @endif <button class="btn btn-primary" name="do" value="arrived">It has arrived in the
                        library</button></form>
            @else
                <form method="post" action="/stores/{{ $store->name }}/cartridges/{{ $cartridge->label }}">@csrf<button
                        class="btn btn-outline-primary" name="do" value="out">It was taken to the shelf</button></form>
            @endif
        @endif
        <h2>What is on it</h2>
        @if ($contents === [])
            <p class="muted">No set that you may see lies on it.</p>
        @else
            <p class="muted">
                {{ $alone === 0 ? 'No point could be restored from this cartridge alone.'
                    : Words::count($alone, 'point') . ' could be restored whole from this cartridge alone, with nothing else.' }}
            </p>
            <table class="list">
                <thead>
                    <tr>
                        <th>Point</th>
                        <th>Workload</th>
                        <th>Level</th>
                        <th class="num">Begins at</th>
                        <th class="num">Bytes</th>
                        <th>Alone</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($contents as $set)
                        <tr>
                            <td class="tight"><a data-row
                                    href="/workloads/{{ $set->workload->id }}?days=14&amp;mid={{ intdiv($set->set->instant, 1_000_000) }}"
                                    title="{{ $set->set->name }}"><x-moment :at="$set->set->capturedAt()" :zone="$zone" /></a></td>
                            <td class="tight">{{ $set->workload->name }}</td>
                            <td class="tight">{{ $set->set->level->words() }}</td>
                            <td class="num" title="{{ number_format($set->position) }} bytes from the beginning of the tape"><x-size
                                    :bytes="$set->position" /></td>
                            <td class="num"><x-size :bytes="$set->bytes" /></td>
                            <td>
                                @if ($set->isPointAlone)
                                    whole
                                @elseif ($set->parts > 1)
                                <span class="muted">only a part: it spans {{ $set->parts }} cartridges</span>@else<span
                                        class="muted">needs sets that are not on it</span>
                                @endif
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        @if ($calls->isNotEmpty())
            <h2>Asked for</h2>
            <table class="list w-auto">
                <tbody>
                    @foreach ($calls as $call)
                        <tr>
                            <td class="tight pe-4"><x-moment :at="$call->asked_at" :zone="$zone" /></td>
                            <td class="tight pe-4">
                                @if ($call->run_id !== null)
                                    for run
                                    <a class="text-decoration-underline" href="/runs/{{ $call->run_id }}">{{ $call->run_id }}</a>
                                @endif
                            </td>
                            <td class="tight">
                                @if ($call->arrived_at === null)
                                    <span class="attention">not here yet</span>
                                @else
                                    arrived after {{ Words::duration($call->asked_at->diffInSeconds($call->arrived_at, true)) }}
                                @endif
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
    </main>
</x-layout>
