@php($running = $view->running())
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
                    <td><a data-row href="/runs/{{ $run->id }}">{{ $run->id }}</a></td>
                    <td>{{ $run->sentence($view->user->zone) }}</td>
                    <td class="tight">{{ $run->workload->name }}</td>
                    <td>{{ $run->state }}</td>
                    <td class="num">
                        @if ($run->starts_at?->isFuture())
                            begins
                            <x-moment :at="$run->starts_at" :zone="$view->user->zone" />;
                        @endif
                        {{ number_format($run->files_done) }} of {{ number_format($run->files_total) }}
                    </td>
                </tr>
            @endforeach
        </tbody>
    </table>
@endif
