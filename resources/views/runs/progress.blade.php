@use('App\Words')
@php($share = $run->bytes_total > 0 ? min(1, $run->bytes_done / $run->bytes_total) : ($run->files_total > 0
    ? min(1, $run->files_done / $run->files_total) : 0))
@php($howFar = array_filter([
    $run->howFar(),
    $run->bytes_total > 0 ? Words::size($run->bytes_done) . ' of ' . Words::size($run->bytes_total) : '',
]))
@php($seconds = $run->started_at === null ? 0 : max(0.1, now()->diffInMilliseconds($run->started_at, true) / 1000))
<div id="progress" hx-get="/runs/{{ $run->id }}/progress" hx-trigger="load delay:700ms" hx-target="#progress" hx-select="#progress"
    hx-swap="outerHTML" aria-live="polite">
    @if ($run->state === 'waiting')
        <p class="attention mb-1">Run {{ $run->id }} waits for {{ implode(' and ', $run->waits_for ?? []) }}, and goes on by itself.
            @foreach ($run->waits_for ?? [] as $name)
                @if (str_contains($name, '/'))
                    @php([$store, $label] = explode('/', $name, 2))<a href="/stores/{{ $store }}/cartridges/{{ $label }}"
                        hx-boost="false">Record the arrival of {{ $label }}</a>
                @endif
            @endforeach
        </p>
    @endif
    <p class="mb-0">Run {{ $run->id }} is
        {{ ['queued' => 'waiting for a worker', 'waiting' => 'waiting'][$run->state] ?? 'at work' }}{{ $howFar === [] ? ''
            : ': ' . implode(', ', $howFar) }}{{ $share > 0.02 && $share < 1 ? ',' : '.' }}
        @if ($share > 0.02 && $share < 1)
            {{ Words::size((int) ($run->bytes_done / $seconds)) }}/s, about
            {{ Words::duration(($seconds / $share) * (1 - $share)) }} left.
        @endif
    </p>
    <svg class="how-far" viewBox="0 0 100 2" preserveAspectRatio="none" role="img"
        aria-label="{{ (int) round($share * 100) }} percent">
        <rect class="all" width="100" height="2" />
        <rect class="done" width="{{ round($share * 100, 1) }}" height="2" />
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
