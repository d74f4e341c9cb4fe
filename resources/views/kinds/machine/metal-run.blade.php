@use('App\Kinds\Machines\Metal\Enrolment')
@use('App\Kinds\Kinds')
@use('App\Words')
@php($waits = isset($run->plan['follow']) ? Enrolment::following()->firstWhere('id', $run->plan['enrolment']) : null)
@if ($waits !== null && $run->isOver())
    @include('kinds.machine.metal-following', ['one' => $waits, 'zone' => auth()->user()->zone])
@endif
<x-run-page :run="$run" :beside="[]" go-on-hint="it begins anew">
    <x-slot:came>{{ Kinds::of($run)->carrier()->came($run) }}</x-slot:came>
    <x-slot:wrong>what is not right stands below.</x-slot:wrong>
    <x-slot:set-aside></x-slot:set-aside>
    <x-slot:facts>
        @if ($run->state === 'done')
            @foreach ($outcome['disks'] as $disk)
                <dt>{{ $disk['disk'] }}</dt>
                <dd>onto <span class="mono">{{ $disk['onto'] }}</span>, {{ Words::size($disk['bytes']) }}{{ $disk['serial'] === '' ? ''
                    : ", {$disk['serial']}" }}</dd>
            @endforeach
            <dt>Point</dt>
            <dd><span class="mono">{{ $run->set_name }}</span></dd>
            <dt>Enrolment</dt>
            <dd><a class="text-decoration-underline" href="/enrolments/{{ $run->plan['enrolment'] }}">{{ $run->plan['enrolment'] }}</a></dd>
        @endif
    </x-slot:facts>
    <x-slot:back-told></x-slot:back-told>
    <x-slot:back-means></x-slot:back-means>
    @foreach ($outcome['cautions'] ?? [] as $caution)
        <p class="assumed mb-1">{{ $caution }}</p>
    @endforeach
    @if (($outcome['left_out'] ?? 0) > 0)
        <p class="assumed mb-1">{{ Words::count($outcome['left_out'], 'device or socket', 'devices and sockets') }} did not come: its system
            makes them anew when it starts.</p>
    @endif
    @if (isset($outcome['told']))
        <h2 class="fs-6">What the medium said</h2>
        @include('kinds.machine.medium-said', ['told' => $outcome['told']])
    @endif
    @if ($run->state === 'done' && !($outcome['rehearsed'] ?? false) && !isset($run->plan['follow']))
        <h2 class="fs-6">What it needs now</h2>
        <ul>
            <li>Take the medium out, start the machine, and look at its address and name if the old one comes back.</li>
            @foreach ($outcome['next'] ?? [] as $next)
                <li>{{ $next }}</li>
            @endforeach
        </ul>
    @endif
</x-run-page>
