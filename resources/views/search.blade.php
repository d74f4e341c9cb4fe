@php($zone = auth()->user()->zone)
<x-layout title="Search">
<main id="main" class="page"><h1>{{ $words === '' ? 'Search' : 'Found for "'.$words.'"' }}</h1>
@if ($words === '')<p class="empty">Type a part of a name; * and ? stand for any letters, and then the whole name must fit.</p>@endif
@if ($requests->isNotEmpty())<h2>Requests</h2><table class="list"><tbody>@foreach ($requests as $request)<tr><td class="tight"><a data-row href="/requests/{{ $request->id }}">{{ $request->id }}</a></td><td>{{ $request->summary }}</td><td class="tight">{{ $request->requester->name }}</td></tr>@endforeach</tbody></table>@endif
@if ($workloads->isNotEmpty())<h2>Workloads</h2><table class="list"><tbody>@foreach ($workloads as $workload)<tr><td class="tight"><a data-row href="/workloads/{{ $workload->id }}">{{ $workload->name }}</a></td><td>{{ $workload->kind }} at {{ $workload->site }}</td></tr>@endforeach</tbody></table>@endif
@if ($cartridges !== [])<h2>Cartridges</h2><table class="list"><tbody>@foreach ($cartridges as ['store' => $store, 'cartridge' => $cartridge])<tr><td class="tight"><a data-row class="mono" href="/stores/{{ $store->name }}/cartridges/{{ $cartridge->label }}">{{ $cartridge->label }}</a></td><td>{{ $store->name }}, {{ $cartridge->isOnShelf() ? 'on the shelf' : 'in slot '.$cartridge->slot }}</td></tr>@endforeach</tbody></table>@endif
@if ($found !== [])<h2>In the catalog</h2>
<table class="list"><thead><tr><th>Path</th><th>Workload</th><th class="num">Versions</th><th>First seen</th><th>Last seen</th></tr></thead><tbody>
@foreach ($found as $row)<tr><td><x-path :of="$row['path']" /></td><td class="tight">{{ $row['workload']->name }}</td><td class="num">{{ $row['versions'] }}</td><td class="tight mono">{{ \App\View\Words::moment(\Kaiseki\Core\Instant::ofMicroseconds($row['first'])->in(), $zone, false) }}</td><td class="tight mono">{{ $row['last']->until === PHP_INT_MAX ? 'still there' : 'gone by '.\App\View\Words::moment(\Kaiseki\Core\Instant::ofMicroseconds($row['last']->until)->in(), $zone, false) }}</td></tr>@endforeach
</tbody></table>
@elseif ($words !== '' && $requests->isEmpty() && $workloads->isEmpty() && $cartridges === [])<p class="empty">Nothing of that name was ever in a set. A shorter part of the name finds more.</p>@endif
</main>
</x-layout>
