@use('App\View\ChainChart')
@use('App\Words')
<x-layout title="Stores" here="Stores">
    <main id="main" class="page">
        <div class="d-flex align-items-baseline">
            <h1>Stores</h1>
            <a class="ms-auto text-decoration-underline" href="/use">Disk use, and how it goes</a>
        </div>
        @if ($view->lookedAt() !== null)
            <x-looked :at="$view->lookedAt()" :busy="false" :zone="$zone" />
        @endif
        @php($stores = $view->stores())
        @if ($stores->isEmpty())
            <p class="empty">There is no store yet. <span class="mono">bin/kaiseki store-add NAME DIR</span> adds one; adopting a
                folder makes it a read-only store.</p>
        @else
            <table class="list">
                <thead>
                    <tr>
                        <th>Store</th>
                        <th>Kind</th>
                        <th>Site</th>
                        <th>Where</th>
                        <th class="num">Copies</th>
                        <th class="num">Bytes</th>
                        <th class="num">Set-up</th>
                        <th class="num">Reads</th>
                        <th>Measured</th>
                        <th></th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($stores as $line)
                        <tr>
                            <td class="tight">{{ $line->store->name }}</td>
                            <td class="tight">{{ ['folder' => 'disk', 'object' => 'objects', 'tape' => 'tape'][$line->store->kind] }}
                            </td>
                            <td class="tight">{{ $line->store->site }}</td>
                            <td class="mono cut" title="{{ $line->store->root }}">{{ $line->store->root }}</td>
                            <td class="num" title="of {{ Words::count($line->workloads, 'workload') }}">
                                {{ number_format($line->copies) }}@if ($line->workloads > 1)
                                    <span class="muted">of {{ $line->workloads }} workloads</span>
                                @endif
                            </td>
                            <td class="num"><x-size :bytes="$line->bytes" /></td>
                            <td class="num">{{ $line->store->setup_s > 0 ? $line->store->setup_s . ' s' : '' }}</td>
                            <td class="num">{{ $line->store->read_mb_s }} MB/s</td>
                            <td class="tight">@include('stores.rate', ['measured' => $line->measured, 'past' => $line->past])</td>
                            <td>
                                @if ($line->silence !== null)
                                    <span class="attention">does not answer: {{ $line->silence }}</span>
                                @elseif ($line->store->read_only)
                                    <span class="muted">read-only for us</span>
                                @endif
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            <h2>Reading back, every night</h2>
            <table class="list w-auto">
                <thead>
                    <tr>
                        <th class="pe-4">Store</th>
                        <th class="num pe-4">Copies found right</th>
                        <th class="pe-4">Last read back</th>
                        <th>A night</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($view->checks() as $reading)
                        @php($store = $reading->store)
                        <tr>
                            <td class="tight pe-4">{{ $store->name }}</td>
                            <td class="num pe-4">{{ number_format($reading->checked) }} of {{ number_format($reading->copies) }}</td>
                            <td class="tight pe-4">
                                @if ($reading->last !== null)
                                <x-moment :at="$reading->last" :zone="$zone" :offset="false" />@else<span
                                        class="muted">never</span>
                                @endif
                            </td>
                            <td>
                                @if ($view->mayTend($store))
                                    <form class="line-form my-0" method="post" action="/stores/{{ $store->name }}/checks">@csrf<input
                                            class="form-control mono" name="mb" size="6" placeholder="none"
                                            aria-label="MB a night on {{ $store->name }}"
                                            value="{{ $store->check_bytes_a_night === null ? '' : $store->check_bytes_a_night / 1e6 }}"> MB
                                        <span class="muted">between</span> <input class="form-control mono" name="from" size="5"
                                            aria-label="from" value="{{ $store->check_from ?? '01:00' }}"> <span class="muted">and</span>
                                        <input class="form-control mono" name="until" size="5" aria-label="until"
                                            value="{{ $store->check_until ?? '05:00' }}"> <span
                                            class="muted">{{ $store->check_from === null ? $zone : $store->check_zone }}</span> <button
                                            class="btn btn-sm btn-outline-primary">Settle it</button>
                                    </form>
                                    @else{{ $store->check_bytes_a_night === null ? 'not planned'
                                        : Words::size($store->check_bytes_a_night) . ' between ' . $store->check_from . ' and '
                                        . $store->check_until }}
                                @endif
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            <h2>Lanes</h2>
            @php($lanes = $view->lanes())
            @if ($lanes->isEmpty())
                <p class="muted">No lane is listed, so none limits.</p>
            @else<table class="list w-auto">
                    <thead>
                        <tr>
                            <th class="pe-4">From</th>
                            <th class="pe-4">To</th>
                            <th class="num pe-4">Set down</th>
                            <th>Measured</th>
                            <th>Now</th>
                        </tr>
                    </thead>
                    <tbody>
                        @foreach ($lanes as $lane)
                            <tr>
                                <td class="pe-4">{{ $lane->from_site }}</td>
                                <td class="pe-4">{{ $lane->to_site }}</td>
                                <td class="num pe-4">{{ $lane->mb_s }} MB/s</td>
                                <td class="tight">@include('stores.rate', [
                                    'measured' => $view->measuredLane($lane),
                                    'past' => $view->pastOfLane($lane),
                                ])</td>
                                <td class="tight">
                                    @php($sharing = $view->sharing($lane)){{ $sharing === 0 ? ''
                                        : Words::count($sharing, 'run') . ' on it' }}
                                </td>
                            </tr>
                        @endforeach
                    </tbody>
                </table>
            @endif
            @php($cartridges = $view->cartridges())
            @if ($cartridges !== [])
                <h2>Cartridges</h2>
                <table class="list w-auto">
                    <thead>
                        <tr>
                            <th class="pe-4">Cartridge</th>
                            <th class="pe-4">Store</th>
                            <th class="pe-4">Is</th>
                            <th class="num pe-4">Sets</th>
                            <th class="num pe-4">Used</th>
                            <th>Asked for</th>
                        </tr>
                    </thead>
                    <tbody>
                        @foreach ($cartridges as $line)
                            @php($store = $line->store)
                            @php($cartridge = $line->cartridge)
                            @php($call = $line->call)
                            <tr>
                                <td class="tight pe-4"><a data-row class="mono"
                                        href="/stores/{{ $store->name }}/cartridges/{{ $cartridge->label }}">{{ $cartridge->label }}</a>
                                </td>
                                <td class="tight pe-4">{{ $store->name }}</td>
                                <td class="tight pe-4">{{ $cartridge->isOnShelf() ? 'on the shelf' : 'in slot ' . $cartridge->slot }}
                                </td>
                                <td class="num pe-4">{{ $line->sets }}</td>
                                <td class="num pe-4"><x-size :bytes="$cartridge->used" /> of <x-size :bytes="$cartridge->capacity" /></td>
                                <td class="tight">
                                    @if ($call !== null)
                                        <span class="attention">since <x-moment :at="$call->asked_at" :zone="$zone"
                                                :offset="false" />{{ $call->run_id === null ? '' : ", run {$call->run_id} waits" }}</span>
                                        @if ($view->mayTend($store))
                                            <form class="d-inline" method="post"
                                                action="/stores/{{ $store->name }}/cartridges/{{ $cartridge->label }}">@csrf<button
                                                    class="btn btn-sm btn-outline-primary" name="do" value="arrived">It has
                                                    arrived</button></form>
                                        @endif
                                    @endif
                                </td>
                            </tr>
                        @endforeach
                    </tbody>
                </table>
            @endif
            <h2>Copies that cannot be relied on</h2>
            @php($trouble = $view->trouble())
            @if ($trouble === [])
                <p class="muted">None that is known. A copy that turns out wrong when it is read appears here.</p>
            @else<table class="list">
                    <thead>
                        <tr>
                            <th>Set</th>
                            <th>Store</th>
                            <th>Is</th>
                            <th>Because</th>
                        </tr>
                    </thead>
                    <tbody>
                        @foreach ($trouble as $row)
                            <tr>
                                <td class="mono">{{ $row->set }}</td>
                                <td class="tight">{{ $row->store }}</td>
                                <td class="tight">{{ ChainChart::stateWords($row->state) }}</td>
                                <td class="attention">{{ $row->because }}</td>
                            </tr>
                        @endforeach
                    </tbody>
                </table>
            @endif
        @endif
    </main>
</x-layout>
