<x-layout :title="'Run ' . $run->id" here="Proofs">
    <main id="main" class="page">
        <h1>Run {{ $run->id }} of {{ $run->workload->name }}</h1>
        @include($run->view())
        @if ($run->request_id !== null)
        <p><a href="/requests/{{ $run->request_id }}" data-key="Backspace">Request {{ $run->request_id }}</a></p>@else<p
                class="muted">From the command line. <a href="/proofs" data-key="Backspace">All proofs</a></p>
        @endif
    </main>
</x-layout>
