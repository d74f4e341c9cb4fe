@php($zone = auth()->user()->zone)
<x-layout title="Stores" here="Stores">
<main id="main" class="page"><h1>Stores</h1>
@if ($stores->isEmpty())<p class="empty">There is no store yet. <span class="mono">bin/kaiseki store-add NAME DIR</span> adds one; adopting a folder makes it a read-only store.</p>
@else
<table class="list"><thead><tr><th>Store</th><th>Site</th><th>Folder</th><th class="num">Copies</th><th class="num">Bytes</th><th class="num">Reads</th><th class="num">Set-up</th><th></th></tr></thead><tbody>
@foreach ($stores as $store)
<tr><td class="tight">{{ $store->name }}</td><td>{{ $store->site }}</td><td class="mono text-break">{{ $store->root }}</td><td class="num">{{ number_format($counts[$store->id]->copies ?? 0) }}</td><td class="num"><x-size :bytes="(int) ($counts[$store->id]->bytes ?? 0)" /></td><td class="num">{{ $store->read_mb_s }} MB/s</td><td class="num">{{ $store->setup_s }} s</td><td>{{ $store->read_only ? 'read-only for us' : '' }}</td></tr>
@endforeach
</tbody></table>
<h2>Lanes</h2>
@if ($lanes->isEmpty())<p class="muted">No lane is listed, so none limits.</p>
@else<table class="list w-auto"><tbody>@foreach ($lanes as $lane)<tr><td class="pe-4">{{ $lane->from_site }} to {{ $lane->to_site }}</td><td class="num">{{ $lane->mb_s }} MB/s</td></tr>@endforeach</tbody></table>@endif
<h2>Copies that cannot be relied on</h2>
@if ($trouble->isEmpty())<p class="muted">None that is known. A copy that turns out wrong when it is read appears here.</p>
@else<table class="list"><thead><tr><th>Set</th><th>Store</th><th>Because</th></tr></thead><tbody>@foreach ($trouble as $row)<tr><td class="mono">{{ $row['copy']->set->name }}</td><td>{{ $row['copy']->store->name }}</td><td class="attention">{{ $row['because'] }}</td></tr>@endforeach</tbody></table>@endif
@endif
</main>
</x-layout>
