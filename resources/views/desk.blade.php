@php($user = auth()->user())
<x-layout title="Desk" here="Desk">
    <main id="main" class="page">
        @if ($approvals->isNotEmpty() || $consents->isNotEmpty())
            <h2 class="mt-0">Waits for a second person</h2>
            <table class="list mb-4">
                <thead>
                    <tr>
                        <th>About</th>
                        <th>Order</th>
                        <th>Asked by</th>
                        <th>What is wanted</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($approvals as $approval)
                        <tr>
                            <td class="tight"><a id="approval-{{ $approval->id }}" data-row
                                    href="/approvals/{{ $approval->id }}">{{ $approval->request_id }}</a></td>
                            <td>{{ $approval->sentence }}</td>
                            <td class="tight">{{ $approval->asker->name }}, <x-moment :at="$approval->asked_at" :zone="$user->zone"
                                    :offset="false" /></td>
                            <td class="tight attention">
                                {{ $approval->state === 'asked' ? 'approval' : 'begun without approval: review' }}</td>
                        </tr>
                    @endforeach
                    @foreach ($consents as $consent)
                        <tr>
                            <td class="tight"><a id="consent-{{ $consent->id }}" data-row
                                    href="/consents/{{ $consent->id }}">{{ $consent->workload->name }}</a></td>
                            <td>{{ $consent->words }}</td>
                            <td class="tight">{{ $consent->asker->name }}, <x-moment :at="$consent->asked_at" :zone="$user->zone"
                                    :offset="false" /></td>
                            <td class="tight attention">a second person</td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        <div class="d-flex align-items-baseline">
            <h1>Open requests</h1>
            @can('create', App\Models\RecoveryRequest::class)
                <a class="btn btn-outline-primary ms-auto" href="/requests/new" data-key="n">New request <kbd>n</kbd></a>
            @endcan
        </div>
        @if ($open->isEmpty())
            <p class="empty">Nothing is asked for. When somebody has lost something and a <a href="/requests/new">request is written
                    down</a>, it appears here by how soon it is due.</p>
        @else
            <table class="list">
                <thead>
                    <tr>
                        <th>Request</th>
                        <th>What is missing</th>
                        <th>Workload</th>
                        <th>Asked by</th>
                        <th>State</th>
                        <th>Due</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($open as $request)
                        <tr>
                            <td class="tight"><a id="request-{{ $request->id }}" data-row
                                    href="/requests/{{ $request->id }}">{{ $request->id }}</a></td>
                            <td><a class="text-reset" tabindex="-1" href="/requests/{{ $request->id }}">{{ $request->summary }}</a>
                            </td>
                            <td class="tight">
                                @if ($request->workload === null)
                                    not sure @else{{ $user->sees($request->workload->group) ? $request->workload->name : 'another' }}
                                @endif
                            </td>
                            <td class="tight">{{ $request->requester->name }}</td>
                            <td class="tight">{{ $request->state === 'answer' ? 'waits for a yes' : $request->state }}</td>
                            <td class="tight"><x-due :at="$request->due_at" :zone="$user->zone" word="" /></td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        @can('see-estate')
            <h2>Running now</h2>
            @if ($running->isEmpty())
                <p class="muted">No run is at work.</p>
            @else
                <table class="list">
                    <thead>
                        <tr>
                            <th>Run</th>
                            <th>Order</th>
                            <th>Workload</th>
                            <th>State</th>
                            <th class="num">Files so far</th>
                        </tr>
                    </thead>
                    <tbody>
                        @foreach ($running as $run)
                            <tr>
                                <td><a href="/runs/{{ $run->id }}">{{ $run->id }}</a></td>
                                <td>{{ $run->sentence($user->zone) }}</td>
                                <td class="tight">{{ $run->workload->name }}</td>
                                <td>{{ $run->state }}</td>
                                <td class="num">
                                    @if ($run->starts_at?->isFuture())
                                        begins
                                        <x-moment :at="$run->starts_at" :zone="$user->zone" />;
                                    @endif {{ number_format($run->files_done) }} of
                                    {{ number_format($run->files_total) }}
                                </td>
                            </tr>
                        @endforeach
                    </tbody>
                </table>
            @endif
        @endcan
        @if ($setAside->isNotEmpty())
            <h2>Still set aside</h2>
            <table class="list">
                <thead>
                    <tr>
                        <th>Run</th>
                        <th>Order</th>
                        <th class="num">Things</th>
                        <th>Kept until</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($setAside as $run)
                        <tr>
                            <td class="tight"><a href="/runs/{{ $run->id }}">{{ $run->id }}</a></td>
                            <td>{{ $run->sentence($user->zone) }}</td>
                            <td class="num">{{ number_format($run->outcome['set_aside'] ?? 0) }}</td>
                            <td class="tight"><x-moment :at="$run->set_aside_until" :zone="$user->zone" /></td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        @if ($closed->isNotEmpty())
            <h2>Closed lately</h2>
            <table class="list">
                <tbody>
                    @foreach ($closed as $request)
                        <tr>
                            <td class="tight"><a href="/requests/{{ $request->id }}">{{ $request->id }}</a></td>
                            <td>{{ $request->summary }}</td>
                            <td class="tight">{{ $request->requester->name }}</td>
                            <td class="tight muted">closed <x-moment :at="$request->closed_at" :zone="$user->zone" /></td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
    </main>
</x-layout>
