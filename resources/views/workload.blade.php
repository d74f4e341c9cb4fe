@use('App\Words')
@php($workload = $view->workload)
@php($chart = $view->chart)
@php($base = $view->url())
<x-layout :title="$workload->name" here="Estate">
    <main id="main" class="page" hx-boost="true" hx-target="#main" hx-select="#main" hx-swap="outerHTML show:none">
        <h1>{{ $workload->name }} <span class="muted fs-6 fw-normal">{{ $workload->kind }} at {{ $workload->site }}</span></h1>
        <p><a class="text-decoration-underline" href="/workloads/{{ $workload->id }}/care" hx-boost="false">Making, keeping, reading
                back</a> · @if ($view->newest === null)
                <span class="attention">No point is usable.</span>
            @else
                The newest usable point is <x-moment :at="$view->newest->capturedAt()" :zone="$view->zone" />,
                {{ Words::duration($view->newest->capturedAt()->diffInSeconds(now(), true)) }} old.
            @endif
            @if ($view->missing() !== null)
                <span class="attention">{{ ucfirst($view->missing()) }}. Its sets are kept and checked.</span>
            @endif
            @if ($view->sourceIsGone()) <span class="attention">Its original is gone; what the
                    sets hold stays.</span>
            @else
                @php($original = $view->original())
                @if ($original === null)
                    <span class="muted">Its original is not known here.</span>
                @else
                    <span class="muted">{{ $original->words }} @if ($original->page !== null)<a
                        class="mono" href="{{ $original->page }}" hx-boost="false">{{ $original->place }}</a>@else<span
                        class="mono">{{ $original->place }}</span>@endif{{ $original->more }}.</span>
                @endif
            @endif
            @php($hurt = $view->points->judge->hurt())
            @if ($hurt > 0)
                <span class="attention">{{ Words::count($hurt, 'point is', 'points are') }} not whole.</span>
            @endif
        </p>
        @if ($view->points->sets === [])
            <p class="empty">No set was made or adopted for it yet.</p>
        @else
            @include('chart.drawing', [
                'name' => $workload->name,
                'zone' => $view->zone,
                'canMove' => false,
                'hasChosen' => $view->newest !== null,
                'loss' => null,
            ])
            @include('chart.tools', ['canMove' => false])
            <div class="scroll of-workload">
                <table class="list">
                    <thead>
                        <tr>
                            <th>Point</th>
                            <th>Level</th>
                            <th>State</th>
                            <th class="num">Written</th>
                            <th>Copies</th>
                            <th>To know</th>
                        </tr>
                    </thead>
                    <tbody>
                        @foreach (array_reverse($chart->posts) as $post)
                            <tr id="point-{{ $post->set->id }}" data-of-post="{{ $post->set->id }}"
                                class="@if ($chart->isChosen($post->set)) chosen @elseif (!$chart->isOwn($post->set)) off @endif">
                                <td class="tight"><a data-row href="/sets/{{ $post->set->id }}" hx-boost="false"
                                        title="{{ $post->set->name }}"><time class="mono" datetime="{{ $post->utc }}"
                                            title="{{ $post->utc }}">{{ $post->shortly() }}</time></a></td>
                                @include('chart.row')<td>{{ $chart->remark($post->set) }}</td>
                            </tr>
                        @endforeach
                    </tbody>
                </table>
                @if ($chart->posts === [])
                    <p class="empty">No set of this span passes the filters.</p>
                @endif
            </div>
            <div class="row mt-2">
                <div class="col-md-6">
                    <h2>Copies</h2>
                    <table class="list">
                        <thead>
                            <tr>
                                <th>Store</th>
                                <th>Site</th>
                                <th class="num">Copies</th>
                                <th class="num">Readable</th>
                                <th class="num">Bytes</th>
                            </tr>
                        </thead>
                        <tbody>
                            @foreach ($view->stores() as $line)
                                <tr>
                                    <td>{{ $line->store }}</td>
                                    <td>{{ $line->site }}</td>
                                    <td class="num">{{ number_format($line->copies) }}</td>
                                    <td class="num {{ $line->readable < $line->copies ? 'attention' : '' }}">
                                        {{ number_format($line->readable) }}</td>
                                    <td class="num"><x-size :bytes="$line->bytes" /></td>
                                </tr>
                            @endforeach
                        </tbody>
                    </table>
                    @php($histories = $view->histories())
                    @if (count($histories) > 1)
                        <h2>Histories</h2>
                        <table class="list">
                            <tbody>
                                @foreach ($histories as $history)
                                    <tr>
                                        <td>{{ $history->name }}</td>
                                        <td class="num">{{ Words::count($history->sets, 'set') }}</td>
                                        <td class="tight"><x-moment :at="$history->first->capturedAt()" :zone="$view->zone"
                                            :offset="false" /></td>
                                        <td class="tight">to <x-moment :at="$history->last->capturedAt()" :zone="$view->zone"
                                            :offset="false" /></td>
                                    </tr>
                                @endforeach
                            </tbody>
                        </table>
                    @endif
                </div>
                <div class="col-md-6">
                    <h2>Open requests</h2>
                    @php($requests = $view->requests())
                    @if ($requests->isEmpty())
                    <p class="muted">None.</p>@else<table class="list">
                            <tbody>
                                @foreach ($requests as $request)
                                    <tr>
                                        <td class="tight"><a href="/requests/{{ $request->id }}"
                                                hx-boost="false">{{ $request->id }}</a></td>
                                        <td>{{ $request->summary }}</td>
                                        <td class="tight"><x-due :at="$request->due_at" :zone="$view->zone" word="" /></td>
                                    </tr>
                                @endforeach
                            </tbody>
                        </table>
                    @endif
                    <h2>Past runs</h2>
                    @php($runs = $view->runs())
                    @if ($runs->isEmpty())
                    <p class="muted">Nothing of it was ever restored.</p>@else<table class="list">
                            <tbody>
                                @foreach ($runs as $run)
                                    <tr>
                                        <td class="tight"><a href="/runs/{{ $run->id }}"
                                                hx-boost="false">{{ $run->id }}</a></td>
                                        <td class="tight"><x-moment :at="$run->created_at" :zone="$view->zone" :offset="false" /></td>
                                        <td class="tight">{{ $run->state }}</td>
                                        <td class="num">{{ $run->seconds() === null ? '' : Words::duration($run->seconds()) }}
                                        </td>
                                        <td class="muted">
                                            {{ $run->estimate === null ? '' : 'told before: ' . Words::duration($run->estimate['likely']) }}
                                        </td>
                                    </tr>
                                @endforeach
                            </tbody>
                        </table>
                    @endif
                </div>
            </div>
        @endif
    </main>
</x-layout>
