@use('App\Models\RecoveryRequest')
@use('App\View\RequestFilter')
@use('App\Words')
@php($filter = $view->filter)
<div class="d-flex align-items-baseline">
    <h1>{{ $filter->state === 'closed' ? 'Closed requests' : 'Open requests' }}</h1>
    <span class="muted ms-3">{{ number_format($view->requests->total()) }}</span>
    @can('create', RecoveryRequest::class)
        <a class="btn btn-outline-primary ms-auto" href="/requests/new" data-key="n">New request <kbd>n</kbd></a>
    @endcan
</div>
<form method="get" action="/" class="line-form filter" role="search" aria-label="Requests">
    <label class="visually-hidden" for="filter-q">Words</label>
    <input class="form-control" id="filter-q" name="q" size="24" maxlength="100" placeholder="summary, person, number" data-key="f"
        value="{{ $filter->text }}">
    <label class="visually-hidden" for="filter-state">State</label>
    <select class="form-select w-auto" id="filter-state" name="state">
        <option value="">not closed</option>
        @foreach (RequestFilter::STATES as $state => $words)
            <option value="{{ $state }}" @selected($filter->state === $state)>{{ $words }}</option>
        @endforeach
    </select>
    <label class="visually-hidden" for="filter-workload">Workload</label>
    <select class="form-select w-auto" id="filter-workload" name="workload">
        <option value="">any workload</option>
        @foreach ($view->workloads() as $workload)
            <option value="{{ $workload->id }}" @selected($filter->workload === $workload->id)>{{ $workload->name }}</option>
        @endforeach
    </select>
    <label class="text-nowrap"><input type="checkbox" name="soon" value="1" @checked($filter->isDueSoon)> due within 2 h</label>
    <button class="btn btn-sm btn-outline-primary">Filter <kbd>f</kbd></button>
    @if (!$filter->isNone())
        <a class="text-decoration-underline" href="/">all that are open</a>
    @endif
</form>
@include('desk.filters')
@if ($view->requests->isEmpty() && $filter->isNone())
    <p class="empty">Nothing is asked for. When somebody has lost something and a <a href="/requests/new">request is written
            down</a>, it appears here by how soon it is due.</p>
@elseif ($view->requests->isEmpty())
    <p class="empty">No request fits that. <a href="/">See all that are open.</a></p>
@else
    <table class="list">
        <thead>
            <tr>
                <th>Request</th>
                <th>What is missing</th>
                <th>Workload</th>
                <th>Asked by</th>
                <th>State</th>
                <th>{{ $filter->state === 'closed' ? 'Closed' : 'Due' }}</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($view->requests as $request)
                <tr>
                    <td class="tight"><a id="request-{{ $request->id }}" data-row
                            href="/requests/{{ $request->id }}">{{ $request->id }}</a></td>
                    <td><a class="text-reset" tabindex="-1" href="/requests/{{ $request->id }}">{{ $request->summary }}</a></td>
                    <td class="tight">{{ $view->about($request) }}</td>
                    <td class="tight">{{ $request->requester->name }}</td>
                    <td class="tight">{{ RequestFilter::STATES[$request->state] ?? $request->state }}</td>
                    <td class="tight">
                        @if ($request->closed_at === null)
                            <x-due :at="$request->due_at" :zone="$view->user->zone" word="" />
                        @else
                            <x-moment :at="$request->closed_at" :zone="$view->user->zone" />
                        @endif
                    </td>
                </tr>
            @endforeach
        </tbody>
    </table>
    {{ $view->requests->links() }}
@endif
