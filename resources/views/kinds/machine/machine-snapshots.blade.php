@use('App\Kinds\Machines\Terminal\SnapshotCommand')
<h2 id="snapshots">Kept at its own storage</h2>
@error('snapshot')
    <p class="attention mb-1" role="alert">{{ $message }}</p>
@enderror
@if ($view->snapshots() === [])
    <p class="muted mb-1">No snapshot of it is kept where its disks lie.</p>
@else
    <table class="list w-auto mb-2">
        <thead>
            <tr>
                <th class="pe-4">As it was at</th>
                <th class="pe-4">Its file systems</th>
                <th></th>
            </tr>
        </thead>
        <tbody>
            @foreach ($view->snapshots() as $name => $snapshot)
                <tr>
                    <td class="pe-4" title="{{ $name }}"><x-moment :at="$view->momentOf($snapshot)" :zone="$zone" /></td>
                    <td class="pe-4">{{ $snapshot->unrest === null ? 'at rest' : 'as after a power cut' }}</td>
                    <td>
                        @if ($view->mayTurn() && $view->canBeKept($snapshot))
                            <form class="d-inline" method="post" action="{{ $view->url() }}/snapshot">@csrf
                                <button class="btn btn-outline-secondary btn-sm" name="keep" value="{{ $name }}">Make a set of it</button>
                            </form>
                        @elseif (!$view->canBeKept($snapshot))
                            <span class="muted small">a newer set stands for it</span>
                        @endif
                    </td>
                </tr>
            @endforeach
        </tbody>
    </table>
@endif
@if ($view->rule !== null)
    <p class="muted small mb-1">{{ SnapshotCommand::words($view->rule) }}
        @if ($view->rule->failure !== null)
            <span class="attention">The last could not be taken: {{ $view->rule->failure }}</span>
        @endif
    </p>
@endif
@if ($view->mayTurn() && $standing === null)
    <form class="mb-1" method="post" action="{{ $view->url() }}/snapshot">@csrf
        <button class="btn btn-outline-primary btn-sm" id="take-snapshot">Keep it as it is now</button></form>
@endif
<p class="muted small mb-0">What is kept there goes with that storage. A set of it is a point like any other: files come out of it, and
    a machine is started from it.</p>
