<div id="progress" hx-get="/runs/{{ $run->id }}/progress" hx-trigger="load delay:700ms" hx-target="#progress" hx-select="#progress"
    hx-swap="outerHTML" aria-live="polite">
    @if ($run->state === 'waiting')
        <p class="attention mb-1">Run {{ $run->id }} waits for {{ implode(' and ', $run->waits_for ?? []) }}, and goes on by itself.
            @foreach ($bar->cartridges() as $label => $page)
                <a href="{{ $page }}" hx-boost="false">Record the arrival of {{ $label }}</a>
            @endforeach
        </p>
    @endif
    <p class="mb-0">Run {{ $run->id }} {{ $bar->words() }}</p>
    <svg class="how-far" viewBox="0 0 100 2" preserveAspectRatio="none" role="img"
        aria-label="{{ (int) $bar->percent() }} percent">
        <rect class="all" width="100" height="2" />
        <rect class="done" width="{{ $bar->percent() }}" height="2" />
    </svg>
    <ul class="steps">
        @foreach ($run->steps as $step)
            <li><span>{{ $step->name }}</span><span>{{ $step->state }}</span><span class="muted">{{ $step->detail }}</span></li>
        @endforeach
    </ul>
    @can('stop', $run)
        <form method="post" action="/runs/{{ $run->id }}/stop">@csrf<button
                class="btn btn-sm btn-outline-primary">{{ $run->stop_asked ? 'Asked to stop' : 'Stop it' }}</button></form>
    @endcan
    <p class="muted"><a href="{{ $run->page() }}">Look again</a></p>
</div>
