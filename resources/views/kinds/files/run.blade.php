@php($zone = auth()->user()->zone)
@php($outcome = $run->outcome ?? [])
@if (($run->plan['download'] ?? '') !== '' && $run->state === 'queued')
<p>The archive is made while it is sent, and sent once.</p>
@can('download', $run)<p><a class="btn btn-primary" id="download" hx-boost="false" href="/runs/{{ $run->id }}/download" download>Download {{ \App\Words::count($run->files_total, 'file') }}, {{ \App\Words::size($run->bytes_total) }} ({{ $run->plan['download'] === 'zip' ? 'zip' : 'tar.gz' }})</a></p>
<p class="muted">When it has arrived: <a href="{{ $run->page() }}">look again</a></p>@else<p class="muted">An operator or the requester takes it.</p>@endcan
@elseif (! $run->isOver())
@include('runs.progress')
@else
<p class="mb-1">@if ($run->state === 'done' && $outcome['right'])<span class="mark-proven">Proven</span>: run {{ $run->id }} brought back {{ \App\Words::count($outcome['files'], 'file') }}, {{ \App\Words::size($outcome['bytes']) }}, and all of it is right.@elseif ($run->state === 'done')<span class="attention">Not all right</span>: run {{ $run->id }} brought back {{ \App\Words::count($outcome['files'], 'file') }}, {{ \App\Words::size($outcome['bytes']) }}; what is missing or different stands below.@else<span class="attention">Run {{ $run->id }} {{ $run->state === 'stopped' ? 'was stopped' : 'failed' }}.</span> {{ $run->failure }}@endif</p>
<p class="muted">{{ $run->plan['sentence'] }}</p>
@if ($run->state === 'done')
<table class="list mb-3"><thead><tr><th>Check</th><th>Result</th><th>Detail</th></tr></thead><tbody>
@foreach ($outcome['checks'] as $check)<tr><td>{{ $check['check'] }}</td><td class="tight"><span class="{{ $check['result'] === 'passed' ? 'mark-proven' : 'mark-failed' }}">{{ $check['result'] }}</span></td><td class="tight">{{ $check['detail'] }}</td></tr>@endforeach
</tbody></table>
<dl class="facts mb-2">
<dt>Is now in</dt><dd class="mono">{{ ($run->plan['download'] ?? '') !== '' ? 'whoever downloaded it' : (($run->plan['host'] ?? '') === '' ? '' : $run->plan['host'].':').\Kaiseki\Core\Catalog\Shown::name(rawurldecode($run->plan['target'])) }}</dd>
<dt>Point</dt><dd><span class="mono">{{ $run->set_name }}</span></dd>
<dt>Was read</dt><dd>@forelse ($outcome['read'] as $line){{ \App\Words::count($line['members'], 'member') }} ({{ \App\Words::size($line['bytes']) }}) of {{ $line['set'] }} from {{ $line['store'] }}@if (! $loop->last)<br>@endif @empty nothing @endforelse</dd>
<dt>Took</dt><dd>{{ \App\Words::duration(max(0.1, $run->seconds())) }}@if ($run->estimate !== null), told before: about {{ \App\Words::duration($run->estimate['likely']) }} ({{ \App\Words::duration($run->estimate['least']) }} to {{ \App\Words::duration($run->estimate['most']) }})@endif; ended <x-moment :at="$run->ended_at" :zone="$zone" /></dd>
@if ($run->set_aside_until !== null)<dt>Set aside</dt><dd>{{ \App\Words::count($outcome['set_aside'] ?? 0, 'thing') }} that it replaced, until <x-moment :at="$run->set_aside_until" :zone="$zone" /></dd>@endif
@foreach ($outcome['commands'] ?? [] as $command)<dt>Command {{ $command['when'] }}</dt><dd><span class="mono">{{ implode(' ', $command['command']) }}</span>, {{ \App\Words::duration($command['seconds']) }}, {{ $command['exit'] === null ? 'did not end' : 'ended with '.$command['exit'] }}@if ($command['output'] !== '')<pre class="said">{{ $command['output'] }}</pre>@endif</dd>@endforeach
@php($approval = $run->approval)
@if ($approval !== null)<dt>{{ $approval->state === 'overridden' ? 'No approval' : 'Approved by' }}</dt><dd @if ($approval->isToBeReviewed()) class="attention" @endif>{{ $approval->state === 'overridden' ? $approval->words.($approval->isToBeReviewed() ? ' (to be reviewed)' : ' (reviewed by '.$approval->reviewer?->name.')') : $approval->decider?->name }}</dd>@endif
@if ($outcome['damaged'] !== [])<dt class="attention">Found damaged</dt><dd class="attention">@foreach ($outcome['damaged'] as $because)An archive {{ $because }}. @endforeach</dd>@endif
</dl>
@php($odd = array_values(array_filter(array_merge($outcome['differences'], $outcome['left_out']), fn (array $row): bool => $row['loss'] || in_array($row, $outcome['differences'], true))))
@php($left = array_values(array_filter($outcome['left_out'], fn (array $row): bool => ! $row['loss'])))
@if ($odd !== [])
<h3 class="h6">Not there, or not the same</h3>
<div class="scroll short"><table class="list mb-3"><tbody>@foreach (array_slice($odd, 0, 200) as $row)<tr><td class="mono">/{{ $row['path'] }}</td><td class="@if ($row['loss']) attention @endif">{{ $row['because'] }}</td></tr>@endforeach</tbody></table></div>
@endif
@if ($left !== [])
<details class="mb-2"><summary>Left as they were, or left out by the rule: {{ number_format(count($left)) }}</summary><div class="scroll short" tabindex="0" role="region" aria-label="Left as they were"><table class="list mb-3"><tbody>@foreach (array_slice($left, 0, 500) as $row)<tr><td class="mono">/{{ $row['path'] }}</td><td>{{ $row['because'] }}</td></tr>@endforeach</tbody></table></div></details>
@endif
<p><a class="btn btn-outline-primary btn-sm" hx-boost="false" href="/runs/{{ $run->id }}/page">Proof to read</a> <a class="btn btn-outline-primary btn-sm" hx-boost="false" href="/runs/{{ $run->id }}/pdf">PDF</a> <a class="btn btn-outline-primary btn-sm" hx-boost="false" href="/runs/{{ $run->id }}/proof">Signed (JSON)</a> <a class="btn btn-outline-primary btn-sm" hx-boost="false" href="/runs/{{ $run->id }}/manifest">Manifest for b2sum</a></p>
@else
<ul class="steps">@foreach ($run->steps as $step)<li><span>{{ $step->name }}</span><span class="{{ $step->state === 'failed' ? 'attention' : '' }}">{{ $step->state }}</span><span class="muted">{{ $step->detail }}</span></li>@endforeach</ul>
@endif
@if ($run->canBeGoneOnWith())@can('stop', $run)<form method="post" action="/runs/{{ $run->id }}/resume" class="mb-2">@csrf<button class="btn btn-sm btn-outline-primary" id="go-on">Go on with it</button> <span class="muted">what it had brought and is right is not brought again</span></form>@endcan @endif
@include('runs.put-back')
@endif
