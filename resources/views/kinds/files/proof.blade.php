@php($path = fn (array $row): string => '/'.\Kaiseki\Core\Catalog\Shown::name(ltrim(\App\Trees\Run\PathInJson::parse($row), '/')))
<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Proof of run {{ $evidence['run'] }}</title>
@include('runs.proof-style')</head><body>
<h1>Proof of run {{ $evidence['run'] }}: <span class="{{ $evidence['right'] ? 'good' : 'bad' }}">{{ $evidence['right'] ? 'right' : 'not all right' }}</span></h1>
@if (! $sound)<p class="bad">The signature does not fit what is written here: it was changed.</p>@endif
<p class="order">{{ $evidence['order'] }}</p>
<table>
<tr><th>Workload, point</th><td>{{ $evidence['workload'] }}, <span class="mono">{{ $evidence['point'] }}</span>, as it was at {{ $evidence['captured_at'] }}</td></tr>
<tr><th>Request</th><td>{{ $evidence['request'] === null ? 'none: from the command line' : $evidence['request'] }}</td></tr>
<tr><th>Asked by</th><td>{{ $evidence['asked_by'] ?? 'nobody that is on record' }}</td></tr>
<tr><th>Approved by</th><td>{{ $evidence['approval'] === null ? 'no approval was needed' : ($evidence['approval']['state'] === 'overridden' ? 'nobody; begun without approval: '.$evidence['approval']['words'] : $evidence['approval']['by']) }}</td></tr>
<tr><th>Run by</th><td>{{ $evidence['run_by'] }}</td></tr>
<tr><th>Began, ended</th><td>{{ $evidence['started_at'] }}, {{ $evidence['ended_at'] }}</td></tr>
<tr><th>Into</th><td class="mono">{{ $evidence['download'] !== '' ? 'a download ('.$evidence['download'].')' : ($evidence['host'] === null ? '' : $evidence['host'].':').\Kaiseki\Core\Catalog\Shown::name(\App\Trees\Run\PathInJson::parse($evidence['target'])) }}</td></tr>
<tr><th>Came back</th><td>{{ \App\Words::count($evidence['files'], 'file') }} of {{ \App\Words::count($evidence['entries'], 'entry', 'entries') }}, {{ number_format($evidence['bytes']) }} bytes</td></tr>
<tr><th>Selected</th><td class="mono">@foreach (array_slice($evidence['paths'], 0, 40) as $row){{ $path($row) }}<br>@endforeach @if (count($evidence['paths']) > 40)and {{ count($evidence['paths']) - 40 }} more @endif</td></tr>
</table>
<h2>Checks</h2>
<table><thead><tr><th>Check</th><th>Result</th><th>Detail</th></tr></thead>@foreach ($evidence['checks'] as $check)<tr><td>{{ $check['check'] }}</td><td class="{{ $check['result'] === 'passed' ? '' : 'bad' }}">{{ $check['result'] }}</td><td>{{ $check['detail'] }}</td></tr>@endforeach</table>
<h2>Read, as it really was</h2>
<table><thead><tr><th>Set</th><th>Store</th><th>Members</th><th>Bytes</th></tr></thead>@foreach ($evidence['read'] as $line)<tr><td class="mono">{{ $line['set'] }}</td><td>{{ $line['store'] }}</td><td>{{ number_format($line['members']) }}</td><td>{{ number_format($line['bytes']) }}</td></tr>@endforeach</table>
<h2>Steps</h2>
<table>@foreach ($evidence['steps'] as $step)<tr><th>{{ $step['step'] }}</th><td>{{ $step['seconds'] }} s</td><td>{{ $step['detail'] }}</td></tr>@endforeach</table>
@if ($evidence['commands'] !== [])<h2>Commands on the host</h2><table>@foreach ($evidence['commands'] as $command)<tr><th>{{ $command['when'] }}</th><td class="mono">{{ implode(' ', $command['command']) }}</td><td>{{ $command['exit'] === null ? 'did not end by itself' : 'ended with '.$command['exit'] }}, {{ $command['seconds'] }} s</td><td class="mono">{{ $command['output'] }}</td></tr>@endforeach</table>@endif
@foreach (['differences' => ['Not as in the catalog', 'difference_count'], 'left_out' => ['Did not come back', 'left_out_count']] as $name => [$title, $count])
@if ($evidence[$name] !== [])<h2>{{ $title }} ({{ number_format($evidence[$count]) }})</h2><table>@foreach (array_slice($evidence[$name], 0, 200) as $row)<tr><td class="mono">{{ $path($row) }}</td><td class="{{ $row['loss'] ? 'bad' : '' }}">{{ $row['because'] }}</td></tr>@endforeach</table>@endif
@endforeach
@if ($evidence['from_other_points'] !== [])<h2>From other points</h2><table>@foreach (array_slice($evidence['from_other_points'], 0, 200) as $row)<tr><td class="mono">{{ $path($row) }}</td><td class="mono">{{ $row['point'] }}</td><td>{{ $row['because'] }}</td></tr>@endforeach</table>@endif
<h2>To check it</h2>
<p>Each file that came back is in the manifest, which <span class="mono">b2sum --length=256 --check</span> reads in the target; the entries with size, mode and time are in the list of entries. The signature (Ed25519, RFC 8032) is over the canonical form (RFC 8785) of the evidence in the JSON proof, of which this page is a reading.</p>
<table>
<tr><th>Manifest</th><td class="mono">BLAKE2b-256 {{ $evidence['manifest_blake2b_256'] }}</td></tr>
<tr><th>Entries</th><td class="mono">BLAKE2b-256 {{ $evidence['entries_blake2b_256'] }}</td></tr>
<tr><th>Public key</th><td class="mono">{{ $key }}</td></tr>
<tr><th>Signature</th><td class="mono">{{ $signature }}</td></tr>
</table>
</body></html>
