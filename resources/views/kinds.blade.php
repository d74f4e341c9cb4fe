@use('App\Words')
<x-layout title="Kinds" here="Estate">
    <main id="main" class="page">
        <h1>Kinds of workloads</h1>
        @foreach ($kinds as $kind)
            <h2>{{ $kind->name }} <span class="muted fw-normal">{{ Words::count($kind->workloads, 'workload') }}</span></h2>
            @if (!$kind->isInstalled)
                <p class="attention">This kind is not installed here: its sets are kept and read back, and nothing else can be done
                    with them. Name the file that brings it in KAISEKI_KINDS, and start the desk again.</p>
            @elseif ($kind->needs === [])
                <p class="muted">Needs nothing beyond the desk itself.</p>
            @else
                <table class="list w-auto">
                    <thead>
                        <tr>
                            <th class="pe-4">Program</th>
                            <th class="pe-4">What for</th>
                            <th class="pe-4">Package</th>
                            <th class="num pe-4">Takes about</th>
                            <th>There</th>
                        </tr>
                    </thead>
                    <tbody>
                        @foreach ($kind->needs as $need)
                            <tr>
                                <td class="mono pe-4">{{ $need->program }}</td>
                                <td class="pe-4">{{ $need->for }}</td>
                                <td class="mono pe-4">{{ $need->package }}</td>
                                <td class="num pe-4">{{ $need->megabytes }} MB</td>
                                <td>
                                    @if ($need->isThere())
                                        <span class="muted">there</span>
                                    @else
                                        <span class="mark-failed">missing</span>
                                    @endif
                                </td>
                            </tr>
                        @endforeach
                    </tbody>
                </table>
                @if ($kind->command !== null)
                    <p class="mt-2">Install what is missing, as root: <span class="mono">{{ $kind->command }}</span></p>
                @endif
            @endif
        @endforeach
        <p class="muted mt-3">The same at a terminal: <span class="mono">bin/kaiseki kinds</span></p>
    </main>
</x-layout>
