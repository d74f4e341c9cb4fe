@php($chart = $view->chart())
@if ($chart === null)
<h2>Which workload</h2>
<p class="hint">The requester was not sure. Search <kbd>/</kbd> finds names in all workloads.</p>
<form method="post" action="/requests/{{ $request->id }}/workload" class="d-flex gap-2">@csrf
<select class="form-select w-auto" name="workload" aria-label="Workload">@foreach ($view->workloads() as $workload)<option value="{{ $workload->id }}">{{ $workload->name }}</option>@endforeach</select>
<button class="btn btn-primary">It is this one</button></form>
@else
<h2>When <kbd>w</kbd></h2>
<p class="hint">@if ($sheet->point === null)There is no usable point at or before the wanted moment with these demands. Take a demand away, or choose a point below.@elseif ($sheet->isOwnChoice())Your own choice of point.@elseif ($sheet->found->passedOver !== []){{ \App\View\Words::count(count($sheet->found->passedOver), 'newer point was', 'newer points were') }} passed over; the reasons stand below.@else The newest good point before the wanted moment.@endif @if ($sheet->point !== null && $sheet->lossSeconds() > 0)What changed in the hatched {{ \App\View\Words::duration($sheet->lossSeconds()) }} is not in it.@endif</p>
<div class="toggles">
<form method="post" action="/requests/{{ $request->id }}/demands">@csrf
@foreach (['consistent' => ['consistent', $sheet->demands->consistent], 'clear' => ['not in doubt', $sheet->demands->clear], 'checked' => ['read back', $sheet->demands->checked], 'site' => ['at '.ucfirst($request->workload->site), $sheet->demands->site !== null]] as $name => [$words, $on])
<button id="demand-{{ $name }}" class="toggle" name="demand" value="{{ $name }}" aria-pressed="{{ $on ? 'true' : 'false' }}">{{ $words }}</button>
@endforeach</form>
<form method="post" action="/requests/{{ $request->id }}/moment" class="push">@csrf<label class="muted" for="wanted_at">wanted</label><input class="form-control mono" id="wanted_at" name="wanted_at" size="16" pattern="\d{4}-\d\d-\d\d[ T]\d\d:\d\d" title="Like 2026-11-12 19:30, in your zone" value="{{ $request->wanted_at->setTimezone($view->zone)->format('Y-m-d H:i') }}" required><span class="mono muted">{{ $request->wanted_at->setTimezone($view->zone)->format('P') }}</span><button class="btn btn-sm btn-outline-primary">Set</button></form>
<span class="text-nowrap"><span class="muted">{{ $view->days >= 14 && $view->days % 7 === 0 ? ($view->days / 7).' weeks' : $view->days.' days' }}</span> <a id="nearer" class="btn btn-sm btn-outline-primary py-0" data-key="+" aria-label="Show fewer days" href="{{ $view->url('when', '&days='.max(3, intdiv($view->days, 2))) }}">+</a> <a id="farther" class="btn btn-sm btn-outline-primary py-0" data-key="-" aria-label="Show more days" href="{{ $view->url('when', '&days='.min(2200, $view->days * 2)) }}">−</a></span>
</div>
@include('requests.chart')
<div class="scroll below-chart">
<table class="list"><thead><tr><th>Point</th><th>Level</th><th>State</th><th class="num">Written</th><th>Copies</th><th>Why, or why not</th></tr></thead><tbody>
@foreach ($view->rows() as ['set' => $set, 'why' => $why])
<tr id="point-{{ $set->id }}" class="@if ($chart->isChosen($set)) chosen @elseif (! $chart->isOwn($set)) off @endif">
<td class="tight"><form method="post" action="/requests/{{ $request->id }}/point" class="m-0">@csrf<input type="hidden" name="days" value="{{ $view->days }}"><button class="row-pick" data-row name="set" value="{{ $set->id }}" title="{{ $set->name }}"><x-moment :at="$set->captured_at" :zone="$view->zone" :offset="false" /></button></form></td>
<td class="tight">{{ \Kaiseki\Core\Chain\Level::of($set->level)->words() }}</td>
@php($state = $chart->stateOf($set))
<td class="tight"><span class="{{ ['proven' => 'mark-proven', 'checked' => 'mark-checked', 'lost' => 'mark-failed'][$state] ?? '' }}">{{ $state }}</span></td>
<td class="num"><x-size :bytes="$set->bytes" /></td>
<td class="tight">@foreach ($set->copies as $copy)@php($copyState = $sheet->points->state($copy))<span class="{{ $copyState->isReadable() ? '' : 'mark-failed' }}" title="{{ $sheet->points->stateBecause($copy) ?? \App\View\ChainChart::stateWords($copyState) }}">{{ $copy->store->name }}</span>{{ $loop->last ? '' : ', ' }}@endforeach</td>
<td>{{ $why }}</td></tr>
@endforeach
</tbody></table>
@if ($chart->sets->isEmpty())<p class="empty">No set was made in this span. Show more days with −, or set another moment.</p>@endif
</div>
@if ($sheet->isOwnChoice())<form method="post" action="/requests/{{ $request->id }}/point" class="mt-2">@csrf<button class="btn btn-sm btn-outline-primary">Take the proposed point again</button></form>@endif
@endif
