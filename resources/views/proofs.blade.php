@php($zone = auth()->user()->zone)
<x-layout title="Proofs" here="Proofs">
    <main id="main" class="page">
        <h1>Proofs</h1>
        @if ($runs->isEmpty())
            <p class="empty">Nothing was run yet. Each run leaves its proof here: what came back, how it was checked, and a signature.
            </p>
        @else
            <table class="list">
                <thead>
                    <tr>
                        <th>Run</th>
                        <th>Workload</th>
                        <th>Point</th>
                        <th>Result</th>
                        <th class="num">Files</th>
                        <th class="num">Bytes</th>
                        <th>For</th>
                        <th>By</th>
                        <th>Ended</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($runs as $run)
                        <tr>
                            <td><a data-row href="/runs/{{ $run->id }}">{{ $run->id }}</a></td>
                            <td class="tight">{{ $run->workload->name }}</td>
                            <td class="tight">
                                @if ($run->point_at !== null)
                                    <x-moment :at="$run->point_at" :zone="$zone" :offset="false" />
                                @endif
                            </td>
                            <td class="tight">
                                @if ($run->state === 'done' && $run->outcome['right'])
                                    <span class="mark-proven">proven</span>
                                @elseif ($run->state === 'done')
                                    <span class="attention">not all right</span>
                                @elseif ($run->isOver())
                                    <span class="mark-failed">{{ $run->state }}</span>@else{{ $run->state }}
                                @endif
                            </td>
                            <td class="num">{{ number_format($run->outcome['files'] ?? $run->files_done) }}</td>
                            <td class="num"><x-size :bytes="$run->outcome['bytes'] ?? $run->bytes_done" /></td>
                            <td class="tight">{{ $run->request_id === null ? '' : 'request ' . $run->request_id }}</td>
                            <td class="tight">{{ $run->user->name ?? 'command line' }}</td>
                            <td class="tight">
                                @if ($run->ended_at)
                                    <x-moment :at="$run->ended_at" :zone="$zone" :offset="false" />
                                @endif
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            {{ $runs->links() }}
        @endif
        @if ($key !== null)
            <p class="muted mt-4">This desk signs with the key <span class="mono" id="proof-key">{{ base64_encode($key) }}</span>
                (Ed25519).
                Keep it where a reader of proofs finds it without this desk:
                <span class="mono">bin/kaiseki check-proof FILE --key=FILE</span> compares with it.
                It lies in each night kit and catalog export too.
            </p>
        @endif
    </main>
</x-layout>
