@use('App\Kinds\Machines\Http\OwnMachinesController')
<x-layout title="Your machines" here="Your machines">
    <main id="main" class="page">
        <h1>Your machines</h1>
        <p class="hint">What lies on the disks of another machine is written over with a machine of yours, as its newest set has it. Start
            a recovery medium on that machine, and type the code there. Ask the desk for the medium.</p>
        @if ($open->isNotEmpty())
            <ul class="plain-list mb-3">
                @foreach ($open as $one)
                    <li><a class="text-decoration-underline" href="{{ OwnMachinesController::page($one) }}">{{ $one->workload->name }},
                            enrolment {{ $one->id }}</a> {{ $one->state() }}</li>
                @endforeach
            </ul>
        @endif
        <table class="list w-auto">
            <tbody>
                @forelse ($machines as $workload)
                    <tr>
                        <td class="pe-4 mono">{{ $workload->name }}</td>
                        <td>
                            <form method="post" action="/own-machines/{{ $workload->id }}/code">@csrf
                                <button class="btn btn-sm btn-outline-primary" @if ($loop->first) data-focus @endif>Make a code</button>
                            </form>
                        </td>
                    </tr>
                @empty
                    <tr>
                        <td class="muted">No other machine: what you were let do once was done.</td>
                    </tr>
                @endforelse
            </tbody>
        </table>
    </main>
</x-layout>
