@php($zone = auth()->user()->zone)
<x-layout title="Estate" here="Estate">
<main id="main" class="page"><h1>Estate</h1>
@if ($lines->isEmpty())<p class="empty">Nothing is protected or adopted yet. <span class="mono">bin/kaiseki adopt DIR --as=NAME --kind=files</span> registers archives you already have; <span class="mono">bin/kaiseki protect NAME --source=DIR --level=full</span> makes a set of a folder.</p>
@else
<table class="list"><thead><tr><th>Workload</th><th>Kind</th><th>Site</th><th class="num">Points</th><th>Newest usable</th><th class="num">Age</th><th>Last proven</th><th class="num">Open</th><th>To know</th></tr></thead><tbody>
@foreach ($lines as $line)
<tr><td class="tight"><a data-row href="/workloads/{{ $line['workload']->id }}">{{ $line['workload']->name }}</a></td><td>{{ $line['workload']->kind }}</td><td>{{ $line['workload']->site }}</td><td class="num">{{ count($line['points']->sets) }}</td><td class="tight">@if ($line['newest'])<x-moment :at="$line['newest']->captured_at" :zone="$zone" />@else<span class="attention">none</span>@endif</td><td class="num">{{ $line['newest'] ? \App\View\Words::duration($line['newest']->captured_at->diffInSeconds(now(), true)) : '' }}</td><td class="tight">@if ($line['proven'])<x-moment :at="\Carbon\CarbonImmutable::parse($line['proven'])" :zone="$zone" :offset="false" />@else<span class="muted">never</span>@endif</td><td class="num">{{ $line['open'] === 0 ? '' : $line['open'] }}</td><td>@if ($line['partial'] > 0)<span class="attention">{{ \App\View\Words::count($line['partial'], 'point') }} not whole</span>@endif @if ($line['workload']->source === null)<span class="muted">original not known here</span>@elseif (! is_dir($line['workload']->source))<span class="attention">original is gone</span>@endif</td></tr>
@endforeach
</tbody></table>
@endif
</main>
</x-layout>
