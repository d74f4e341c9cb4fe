@use('App\Words')
<section id="following" class="mb-3">
    <p class="mb-1"><span class="mono">{{ $following->machine }}</span> at <span class="mono">{{ $following->hypervisor->name }}</span> is
        off, and follows the newest point every {{ $following->minutes }} minutes.
        @if ($following->set !== null)
            It is at <span class="mono">{{ $following->set->name }}</span>, {{ Words::duration((float) $following->lag()) }} behind.
        @endif
        @if ($following->stepped_at !== null)
            Looked for a newer one at <x-moment :at="$following->stepped_at" :zone="$zone" />.
        @endif
    </p>
    @if ($following->because !== null)
        <p class="attention mb-1">It cannot go on: {{ $following->because }}</p>
    @endif
    @can('stop', $following->run)
        <form method="post" action="/runs/{{ $following->run_id }}/settle">@csrf
            <button class="btn btn-sm btn-primary" id="settle">Take the last step, and start it</button>
            <span class="muted">To the newest point; it does not follow any more then.</span>
        </form>
    @endcan
</section>
