<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Proof of run {{ $evidence['run'] }}</title>
@include('runs.proof-style')
</head><body>
<h1>Proof of run {{ $evidence['run'] }}: <span class="{{ $evidence['right'] ? 'good' : 'bad' }}">{{ $evidence['right'] ? 'right' : 'not all right' }}</span></h1>
@if (! $sound)<p class="bad">The signature does not fit what is written here: it was changed.</p>@endif
<p class="order">{{ $evidence['order'] }}</p>
<table>
<tr><th>Workload, dump</th><td>{{ $evidence['workload'] }}, <span class="mono">{{ $evidence['point'] }}</span></td></tr>
<tr><th>Request</th><td>{{ $evidence['request'] === null ? 'none: from the command line' : $evidence['request'] }}</td></tr>
<tr><th>Asked by</th><td>{{ $evidence['asked_by'] ?? 'nobody that is on record' }}</td></tr>
<tr><th>Run by</th><td>{{ $evidence['run_by'] }}</td></tr>
<tr><th>Began, ended</th><td>{{ $evidence['started_at'] }}, {{ $evidence['ended_at'] }}</td></tr>
<tr><th>Into</th><td class="mono">{{ implode(', ', $evidence['schemas']) }} on {{ $evidence['server'] }}</td></tr>
@if ($evidence['stop']['position'] !== null)<tr><th>Stopped at</th><td class="mono">{{ $evidence['stop']['position'] }}@if ($evidence['stop']['gtid'] !== null), after {{ $evidence['stop']['gtid'] }} of {{ $evidence['stop']['at'] }}@endif</td></tr>@endif
<tr><th>Came back</th><td>{{ number_format($evidence['rows']) }} rows</td></tr>
</table>
<h2>Checks</h2>
<table><thead><tr><th>Check</th><th>Result</th><th>Detail</th></tr></thead>@foreach ($evidence['checks'] as $check)<tr><td>{{ $check['check'] }}</td><td class="{{ $check['result'] === 'passed' ? '' : 'bad' }}">{{ $check['result'] }}</td><td>{{ $check['detail'] }}</td></tr>@endforeach</table>
@foreach ($evidence['remarks'] as $remark)<p>{{ $remark }}</p>@endforeach
<h2>Read, as it really was</h2>
<table>@foreach ($evidence['read'] as $line)<tr><th class="mono">{{ $line['set'] }}</th><td class="mono">{{ implode(', ', $line['logs']) }}</td><td>{{ number_format($line['bytes']) }} bytes</td></tr>@endforeach</table>
@foreach ($evidence['contents'] as $schema => $contents)<h2>Rows and checksums of {{ $schema }} (CHECKSUM TABLE)</h2><table>@foreach ($contents as $table => $is)<tr><td class="mono">{{ $table }}</td><td>{{ number_format($is['rows']) }}</td><td class="mono">{{ $is['checksum'] ?? 'not compared' }}</td></tr>@endforeach</table>@endforeach
@if ($evidence['row_changes'] !== [])<h2>Rows</h2><table><thead><tr><th>Table</th><th>Put in</th><th>Set back</th><th>Taken out</th><th>Right already</th><th>Changed since</th></tr></thead>@foreach ($evidence['row_changes'] as $line)<tr><td class="mono">{{ $line['schema'] }}.{{ $line['table'] }}</td>@foreach (['insert', 'set_back', 'remove', 'same', 'conflicts'] as $what)<td>{{ number_format($line[$what]) }}</td>@endforeach</tr>@endforeach</table>@endif
@if ($evidence['question'] !== '')<h2>{{ $evidence['question'] }}</h2>@foreach ($evidence['answers'] as $when => $answer)<p>{{ $when }}: <span class="mono">{{ $answer['error'] ?? json_encode($answer['rows'], JSON_UNESCAPED_UNICODE) }}</span></p>@endforeach @endif
<h2>Steps</h2>
<table>@foreach ($evidence['steps'] as $step)<tr><th>{{ $step['step'] }}</th><td>{{ $step['seconds'] }} s</td><td>{{ $step['detail'] }}</td></tr>@endforeach</table>
<h2>To check it</h2>
<p>CHECKSUM TABLE on the server gives the sums above while nobody has written to the tables. The signature (Ed25519, RFC 8032) is over the canonical form (RFC 8785) of the evidence in the JSON proof, of which this page is a reading.</p>
<table><tr><th>Public key</th><td class="mono">{{ $key }}</td></tr><tr><th>Signature</th><td class="mono">{{ $signature }}</td></tr></table>
</body></html>
