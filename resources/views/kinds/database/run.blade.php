@php($zone = auth()->user()->zone)
@php($outcome = $run->outcome ?? [])
@if (! $run->isOver())
@include('runs.progress')
@else
@php($isByRows = in_array($run->plan['way'], ['rows', 'reverse'], true))
<p class="mb-1">@if ($run->state === 'done' && $outcome['right'])<span class="mark-proven">Proven</span>: run {{ $run->id }} brought back {{ \App\Words::count($outcome['rows_restored'], 'row') }} in {{ \App\Words::count($outcome['tables_restored'], 'table') }}, and all of it is right.@elseif ($run->state === 'done')<span class="attention">Not all right</span>: run {{ $run->id }} brought back {{ \App\Words::count($outcome['rows_restored'], 'row') }} in {{ \App\Words::count($outcome['tables_restored'], 'table') }}; what is not right stands below.@else<span class="attention">Run {{ $run->id }} {{ $run->state === 'stopped' ? 'was stopped' : 'failed' }}.</span> {{ $run->failure }}@endif</p>
<p class="muted">{{ $run->plan['sentence'] }}</p>
@if ($run->state === 'done')
<table class="list mb-3"><thead><tr><th>Check</th><th>Result</th><th>Detail</th></tr></thead><tbody>
@foreach ($outcome['checks'] as $check)<tr><td>{{ $check['check'] }}</td><td class="tight"><span class="{{ $check['result'] === 'passed' ? 'mark-proven' : 'mark-failed' }}">{{ $check['result'] }}</span></td><td>{{ $check['detail'] }}</td></tr>@endforeach
</tbody></table>
<dl class="facts mb-2">
<dt>Is now in</dt><dd class="mono">{{ implode(', ', $run->plan['schemas']) }} on {{ $run->plan['server'] }}</dd>
@if (($outcome['reached']['position'] ?? null) !== null)<dt>Stopped at</dt><dd class="mono">{{ $outcome['reached']['position'] }}@if ($outcome['reached']['gtid'] !== null), after {{ $outcome['reached']['gtid'] }} of {{ $outcome['reached']['at'] }}@endif</dd>@endif
<dt>Was read</dt><dd>@forelse ($outcome['read'] as $line)<span class="mono">{{ $line['set'] }}</span>{{ $line['logs'] === [] ? '' : ' and '.\App\Words::count(count($line['logs']), 'log') }}, {{ \App\Words::size($line['bytes']) }}@if (! $loop->last)<br>@endif @empty the log that holds the transaction @endforelse</dd>
<dt>Took</dt><dd>{{ \App\Words::duration(max(0.1, $run->seconds())) }}; ended <x-moment :at="$run->ended_at" :zone="$zone" /></dd>
@if ($run->set_aside_until !== null)<dt>Set aside</dt><dd>{{ $isByRows ? 'the rows as they were before it' : 'what it replaced' }}, until <x-moment :at="$run->set_aside_until" :zone="$zone" /></dd>@endif
@php($approval = $run->approval)
@if ($approval !== null)<dt>{{ $approval->state === 'overridden' ? 'No approval' : 'Approved by' }}</dt><dd>{{ $approval->state === 'overridden' ? $approval->words : $approval->decider?->name }}</dd>@endif
</dl>
@foreach ($outcome['remarks'] as $remark)<p class="mb-1">{{ $remark }}</p>@endforeach
@if (($outcome['break_at'] ?? null) !== null && $run->put_back_at === null && \App\Kinds\Databases\Intake\HistoryBreaks::since($run->workload))@can('tend', $run->workload)
@php($store = $run->workload->usualStore())
@if ($store !== null)<form method="post" action="/workloads/{{ $run->workload_id }}/sets" class="mb-2">@csrf<input type="hidden" name="level" value="full"><input type="hidden" name="store" value="{{ $store->id }}"><button class="btn btn-sm btn-outline-primary" id="full-now">Make a full now</button> <span class="muted">on {{ $store->name }}; it begins the new history</span></form>@endif
@endcan @endif
@if (($outcome['query'] ?? null) !== null)
<h3 class="h6 mt-3">{{ $run->plan['query'] }}</h3><div class="d-flex gap-4 flex-wrap">@foreach (['before', 'after'] as $when)@php($answer = $outcome['query'][$when] ?? ['rows' => []])<div><div class="muted">{{ $when }}</div>@if (isset($answer['error']))<p class="attention">{{ $answer['error'] }}</p>@else<table class="list w-auto"><thead><tr>@foreach (array_keys($answer['rows'][0] ?? []) as $column)<th class="pe-3">{{ $column }}</th>@endforeach</tr></thead><tbody>@foreach (array_slice($answer['rows'], 0, 20) as $row)<tr>@foreach ($row as $value)<td class="mono pe-3">{{ $value ?? 'NULL' }}</td>@endforeach</tr>@endforeach</tbody></table>@endif</div>@endforeach</div>
@endif
@if (($outcome['by_table'] ?? []) !== [])
<h3 class="h6 mt-3">Rows</h3><table class="list w-auto mb-2"><thead><tr><th class="pe-4">Table</th><th class="num">Put in</th><th class="num">Set back</th><th class="num">Taken out</th><th class="num">Right already</th><th class="num">Changed since</th></tr></thead><tbody>@foreach ($outcome['by_table'] as $line)<tr><td class="mono pe-4">{{ $line['schema'] }}.{{ $line['table'] }}</td>@foreach (['insert', 'set_back', 'remove', 'same', 'conflicts'] as $what)<td class="num">{{ $line[$what] === 0 ? '' : number_format($line[$what]) }}</td>@endforeach</tr>@endforeach</tbody></table>
@endif
@if (($outcome['conflicts'] ?? []) !== [])<details class="mb-2"><summary>Rows that were changed since, and are left: {{ number_format($outcome['rows']['conflicts'] ?? count($outcome['conflicts'])) }}</summary><div class="scroll short" tabindex="0" role="region" aria-label="Rows that were changed since"><table class="list"><tbody>@foreach ($outcome['conflicts'] as $line)<tr><td class="mono">{{ $line['table'] }}</td><td class="mono">@foreach ($line['key'] as $column => $value){{ $column }} = {{ $value ?? 'NULL' }} @endforeach</td><td>{{ $line['because'] }}</td></tr>@endforeach</tbody></table></div></details>@endif
@foreach ($outcome['contents'] ?? [] as $schema => $contents)<details class="mb-2"><summary>Rows and checksums of {{ $schema }}</summary><table class="list w-auto"><tbody>@foreach ($contents as $table => $is)<tr><td class="mono pe-4">{{ $table }}</td><td class="num pe-4">{{ number_format($is['rows']) }}</td><td class="mono">{{ $is['checksum'] ?? 'not compared' }}</td></tr>@endforeach</tbody></table></details>@endforeach
<p><a class="btn btn-outline-primary btn-sm" hx-boost="false" href="/runs/{{ $run->id }}/page">Proof to read</a> <a class="btn btn-outline-primary btn-sm" hx-boost="false" href="/runs/{{ $run->id }}/pdf">PDF</a> <a class="btn btn-outline-primary btn-sm" hx-boost="false" href="/runs/{{ $run->id }}/proof">Signed (JSON)</a></p>
@else
<ul class="steps">@foreach ($run->steps as $step)<li><span>{{ $step->name }}</span><span class="{{ $step->state === 'failed' ? 'attention' : '' }}">{{ $step->state }}</span><span class="muted">{{ $step->detail }}</span></li>@endforeach</ul>
@endif
@if ($run->canBeGoneOnWith())@can('stop', $run)<form method="post" action="/runs/{{ $run->id }}/resume" class="mb-2">@csrf<button class="btn btn-sm btn-outline-primary" id="go-on">Run it again</button> <span class="muted">what is in place is gone on from; all else begins anew</span></form>@endcan @endif
@php($back = $run->outcome['put_back'] ?? null)
@if (($back['state'] ?? '') === 'asked')<p id="put-back" class="attention" role="status" hx-get="{{ url()->current() }}?show=proof" hx-select="#put-back" hx-target="#put-back" hx-swap="outerHTML" hx-trigger="every 2s">It is being put back.</p>
@elseif (($back['state'] ?? '') === 'done')<p id="put-back">It was put back{{ $run->put_back_at === null ? '' : ' on '.\App\Words::moment($run->put_back_at, $zone) }}: {{ number_format($back['returned']) }} {{ $isByRows ? 'rows' : 'tables' }} are as they were before it.</p>
@elseif (($back['state'] ?? '') === 'failed')<p id="put-back" class="attention">It could not be put back: {{ $back['because'] }}</p>@endif
@if ($run->canBePutBack())@can('stop', $run)
<details class="mt-2"><summary>Put it back</summary><form method="post" action="/runs/{{ $run->id }}/put-back" class="mt-2">@csrf
<p class="mb-1">{{ $isByRows ? 'The rows that this run changed become what they were before it, if nobody changed them since; else nothing is done.' : 'The tables that this run replaced return to their place, all at once; what was written to the restored ones since is lost.' }}</p>
<button class="btn btn-sm btn-outline-primary" id="do-put-back">Yes, undo run {{ $run->id }}</button></form></details>
@if ($run->set_aside_until !== null)<form method="post" action="/runs/{{ $run->id }}/set-aside" class="mt-1">@csrf<button class="link">Keep the set-aside {{ \App\Runs\SetAsides::DAYS }} days longer</button></form>@endif
@endcan @endif
@endif
