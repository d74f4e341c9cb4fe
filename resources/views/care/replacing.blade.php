@php($workload = $view->workload)
@php($zone = $view->zone)
<h2>Replacing in place</h2>
<form method="post" action="/workloads/{{ $workload->id }}/approval" class="line-form">@csrf
    @if ($workload->needs_approval)
        <span>Waits for a second person, who sees the order and what it does.</span>
        @can('askForApproval', $workload)
            <button class="btn btn-sm btn-outline-primary" name="needs" value="0">Ask that it begin at once
                again</button>
        @endcan
    @else
        <span>Begins when the operator has confirmed it.</span>
        @can('askForApproval', $workload)
            <button class="btn btn-sm btn-outline-primary" name="needs" value="1">Have it wait for a second
                person</button>
        @endcan
    @endif
</form>
@if ($workload->needs_approval)
    <p class="muted small mb-1">Deleting its sets, keeping less of it and lifting this mark wait for a second person
        too.</p>
    @can('settleWait', $workload)
        <form method="post" action="/workloads/{{ $workload->id }}/approval" class="line-form">@csrf
            <label class="muted" for="minutes">what is begun without one waits</label>
            <input class="form-control mono" id="minutes" name="minutes" size="4" inputmode="numeric" required
                value="{{ $workload->override_wait_min }}">
            <span class="muted">minutes</span> <button class="btn btn-sm btn-outline-primary">Settle it</button>
        </form>
    @else<p class="muted small">What is begun without one waits {{ $workload->override_wait_min }} min, so that it can
            be stopped.</p>
    @endcan
@endif
