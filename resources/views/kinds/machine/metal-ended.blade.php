<p class="muted">Its code and its token are worth nothing any more. A medium that is started again asks for a new code, which
    @if ($one->request !== null)
        <a class="text-decoration-underline" href="/requests/{{ $one->request_id }}?show=where">the request</a> makes.
    @else
        <span class="mono">bin/kaiseki medium code {{ $one->workload->name }}</span> makes.
    @endif
</p>
