@use('App\Words')
@use('App\View\UseLine')
@use('App\View\UseView')
<x-layout title="Disk use" here="Stores">
    <main id="main" class="page">
        <h1>Disk use</h1>
        @php($stores = $view->stores())
        @if ($stores === [])
            <p class="empty">There is no store yet. <span class="mono">bin/kaiseki store-add NAME DIR</span> adds one.</p>
        @else
            <table class="list w-auto">
                <thead>
                    <tr>
                        <th class="pe-4">Store</th>
                        <th class="num">Copies</th>
                        <th class="num">Bytes</th>
                        <th class="num">In 7 days</th>
                        <th class="num">In 30 days</th>
                        <th class="px-4">{{ UseView::DAYS }} days</th>
                        <th class="num">Free</th>
                        <th>Full</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($stores as $line)
                        <tr>
                            <td class="tight pe-4"><a data-row href="{{ $line->url }}">{{ $line->name }}</a></td>
                            @include('stores.use-figures')
                            <td class="num">
                                @if ($line->free === null)
                                    <span class="muted">not known</span>
                                @else
                                    <x-size :bytes="$line->free" />
                                @endif
                            </td>
                            <td class="tight">
                                @if ($line->daysLeft() !== null && $line->daysLeft() > UseLine::LONG)
                                    <span class="muted">not for years</span>
                                @elseif ($line->daysLeft() !== null)
                                    <span @class(['attention' => $line->daysLeft() < 30])>in about
                                        {{ Words::count($line->daysLeft(), 'day') }}</span>
                                @endif
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        <h2>By workload</h2>
        @php($workloads = $view->workloads())
        @if ($workloads->isEmpty())
            <p class="empty">Nobody looked yet at what there is, or nothing lies anywhere.</p>
        @else
            <table class="list">
                <thead>
                    <tr>
                        <th>Workload</th>
                        <th class="num">Copies</th>
                        <th class="num">Bytes</th>
                        <th class="num">In 7 days</th>
                        <th class="num">In 30 days</th>
                        <th class="px-4">{{ UseView::DAYS }} days</th>
                        <th>Where</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($workloads as $line)
                        <tr>
                            <td class="tight"><a data-row href="{{ $line->url }}">{{ $line->name }}</a></td>
                            @include('stores.use-figures')
                            <td>
                                @foreach ($line->parts as $store => $bytes)
                                    <span class="text-nowrap me-3">{{ $store }} <x-size :bytes="$bytes" /></span>
                                @endforeach
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            {{ $workloads->links() }}
        @endif
        <p class="muted mt-3">As it was looked at last; the days are written down each night.
            <a class="text-decoration-underline" href="/stores" data-key="Backspace">All stores</a></p>
    </main>
</x-layout>
