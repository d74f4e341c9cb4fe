@use('Kaiseki\Core\Proof\CheckLine')
@props(['evidence', 'sound', 'key', 'signature'])
@php($approval = $evidence['approval'] ?? null)
<!doctype html>
<html lang="en">

<head>
    <meta charset="utf-8">
    <title>Proof of run {{ $evidence['run'] }}</title>
    @include('runs.proof-style')
</head>

<body>
    <h1>Proof of run {{ $evidence['run'] }}: <span
            class="{{ $evidence['right'] ? 'good' : 'bad' }}">{{ $evidence['right'] ? 'right' : 'not all right' }}</span></h1>
    @if (!$sound)
        <p class="bad">The signature does not fit what is written here: it was changed.</p>
    @endif
    <p class="order">{{ $evidence['order'] }}</p>
    <table>
        @isset($point)
            {{ $point }}
        @else
            <tr>
                <th>Workload, point</th>
                <td>{{ $evidence['workload'] }}, <span class="mono">{{ $evidence['point'] }}</span>, as it was at
                    {{ $evidence['captured_at'] }}</td>
            </tr>
        @endisset
        <tr>
            <th>Request</th>
            <td>{{ $evidence['request'] === null ? 'none: from the command line' : $evidence['request'] }}</td>
        </tr>
        <tr>
            <th>Asked by</th>
            <td>{{ $evidence['asked_by'] ?? 'nobody that is on record' }}</td>
        </tr>
        <tr>
            <th>Approved by</th>
            <td>
                @if ($approval === null)
                    no approval was needed
                @elseif ($approval['state'] === 'overridden')
                    nobody; begun without approval: {{ $approval['words'] }}
                    @else{{ $approval['by'] }}
                @endif
            </td>
        </tr>
        <tr>
            <th>Run by</th>
            <td>{{ $evidence['run_by'] }}</td>
        </tr>
        <tr>
            <th>Began, ended</th>
            <td>{{ $evidence['started_at'] }}, {{ $evidence['ended_at'] }}</td>
        </tr>
        {{ $facts }}
    </table>
    <h2>Checks</h2>
    <table>
        <thead>
            <tr>
                <th>Check</th>
                <th>Result</th>
                <th>Detail</th>
            </tr>
        </thead>
        @foreach (CheckLine::all($evidence['checks']) as $check)
            <tr>
                <td>{{ $check->check }}</td>
                <td class="{{ $check->isFailed() ? 'bad' : '' }}">{{ $check->result }}</td>
                <td>{{ $check->detail }}</td>
            </tr>
        @endforeach
    </table>
    {{ $slot }}
    <h2>Steps</h2>
    <table>
        @foreach ($evidence['steps'] ?? [] as $step)
            <tr>
                <th>{{ $step['step'] }}</th>
                <td>{{ $step['seconds'] }} s</td>
                <td>{{ $step['detail'] }}</td>
            </tr>
        @endforeach
    </table>
    {{ $more ?? '' }}
    <h2>To check it</h2>
    <p>{{ $how }} The signature (Ed25519, RFC 8032) is over the canonical form (RFC 8785) of the evidence in the JSON proof,
        of which this page is a reading.</p>
    <table>
        {{ $digests ?? '' }}
        <tr>
            <th>Public key</th>
            <td class="mono">{{ $key }}</td>
        </tr>
        <tr>
            <th>Signature</th>
            <td class="mono">{{ $signature }}</td>
        </tr>
    </table>
</body>

</html>
