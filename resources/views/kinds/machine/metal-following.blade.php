@use('App\Words')
<section id="following" class="mb-3">
    <p class="mb-1">Its medium waits, and it is kept in step with newer points, looked for every {{ $one->follow_minutes }} minutes.
        @if ($one->atSet !== null)
            On its disks lies <span class="mono">{{ $one->atSet->name }}</span>, {{ Words::duration((float) $one->lag()) }} behind.
        @endif
        @if ($one->stepped_at !== null)
            Looked for a newer one at <x-moment :at="$one->stepped_at" :zone="$zone" />.
        @endif
    </p>
    @if ($one->because !== null)
        <p class="attention mb-1">It cannot go on: {{ $one->because }}</p>
    @endif
    @can('order', $one)
        @if ($one->run === null || $one->run->isOver())
            <form method="post" action="{{ $one->page() }}">@csrf
                <button class="btn btn-sm btn-primary" id="switch" name="do" value="switch">Switch over</button>
                <span class="muted">To the newest point; then its medium lets it go, and it is not kept in step any more. Shut the old one
                    down before.</span>
            </form>
        @else
            <p class="muted mb-1"><a class="text-decoration-underline" href="/runs/{{ $one->run_id }}">Run {{ $one->run_id }}</a> is at work
                on it.</p>
        @endif
    @endcan
</section>
