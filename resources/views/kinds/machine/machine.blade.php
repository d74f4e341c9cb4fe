@php($machine = $view->machine)
@php($look = $view->look)
@php($zone = $view->zone)
@php($standing = $view->standing())
<x-layout :title="$view->name" here="Estate">
    <main id="main" class="page">
        <h1>{{ $view->name }} <span class="muted fs-6 fw-normal">a machine at <a class="text-decoration-underline"
                    href="/estate#hypervisors" data-key="Backspace">{{ $view->host->name }}</a>, {{ $view->host->site }}</span></h1>
        <p>
            @if ($machine->isRunning())
                It runs since <x-moment :at="$view->since()" :zone="$zone" />@if ($machine->address !== null)
                    and is reached at <span class="mono">{{ $machine->address }}</span>@endif.
            @else
                It is off.
            @endif
            @if ($standing !== null)
                It stands on the sets of {{ $standing->run->workload->name }}{{ $view->isApart() ? ', in an annex' : '' }}: <a
                    class="text-decoration-underline"
                    href="{{ $standing->run->page() }}">{{ $view->isApart() ? 'release' : 'settle' }} it, or drop it</a>.
            @elseif ($view->isOfRun())
                <span class="attention">A run made it, or set it aside.</span>
            @elseif ($view->isUnprotected())
                <span class="attention">Nothing protects it.</span> <span class="mono">bin/kaiseki protect NAME
                    --machine={{ $view->host->name }}:{{ $view->name }}</span>
            @endif
            @foreach ($view->workloads as $workload)
                It is the workload <a class="text-decoration-underline" href="/workloads/{{ $workload->id }}">{{ $workload->name }}</a>.
            @endforeach
        </p>
        @error('turn')
            <p class="attention" role="alert">{{ $message }}</p>
        @enderror
        @include('kinds.machine.machine-deeds')
        <div class="machine">
            <section aria-labelledby="screen">
                <h2 id="screen">Screen</h2>
                @include('kinds.machine.machine-screen')
            </section>
            <section aria-labelledby="settings">
                <h2 id="settings">Settings</h2>
                @include('kinds.machine.machine-settings')
                @if ($view->workloads !== [])
                    @include('kinds.machine.machine-snapshots')
                @endif
            </section>
        </div>
    </main>
</x-layout>
