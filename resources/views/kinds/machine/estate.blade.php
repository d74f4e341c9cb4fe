@use('App\Kinds\Machines\Page\MachineView')
@use('App\Words')
@if ($seen->hosts() !== [])
    <h2 id="hypervisors">Hypervisors</h2>
    <table class="list w-auto">
        <thead>
            <tr>
                <th class="pe-4">Hypervisor</th>
                <th class="pe-4">Free</th>
                <th class="pe-4">Machine</th>
                <th class="pe-4">Now</th>
                <th class="num pe-4">Memory</th>
                <th>Is the workload</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($seen->hosts() as $host)
                @php($machines = $seen->machines($host))
                @forelse ($machines as $machine)
                    <tr>
                        @include('kinds.machine.estate-host', ['isFirst' => $loop->first])
                        <td class="mono pe-4"><a class="text-decoration-underline"
                                href="{{ MachineView::address($host, $machine->settings->name) }}">{{ $machine->settings->name }}</a></td>
                        <td class="pe-4">{{ $seen->state($host, $machine) }}</td>
                        <td class="num pe-4">{{ $machine->settings->memory }} MiB</td>
                        @php($workload = $seen->workload($host, $machine))
                        <td>
                            @if ($workload !== null)
                                <a class="text-decoration-underline" href="/workloads/{{ $workload->id }}">{{ $workload->name }}</a>
                            @elseif ($seen->isUnprotected($host, $machine))
                                <span class="attention">not protected</span>
                            @endif
                        </td>
                    </tr>
                @empty
                    <tr>
                        @include('kinds.machine.estate-host', ['isFirst' => true])
                        <td colspan="4" class="muted">no machine</td>
                    </tr>
                @endforelse
            @endforeach
        </tbody>
    </table>
@endif
