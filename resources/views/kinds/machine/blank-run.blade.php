@use('App\Kinds\Kinds')
@use('App\Kinds\Machines\Metal\Enrolment')
@use('App\Words')
@php($isDrill = $run->plan['drill'])
@php($waits = isset($run->plan['follow']) ? Enrolment::following()->firstWhere('maker_id', $run->id) : null)
@if ($waits !== null && $run->isOver())
    @include('kinds.machine.metal-following', ['one' => $waits, 'zone' => auth()->user()->zone])
@endif
<x-run-page :run="$run" :beside="[]" go-on-hint="it begins anew">
    <x-slot:came>{{ Kinds::of($run)->carrier()->came($run) }}</x-slot:came>
    <x-slot:wrong>what is not right stands below.</x-slot:wrong>
    <x-slot:set-aside></x-slot:set-aside>
    <x-slot:facts>
        @if ($run->state === 'done')
            <dt>{{ match (true) { $isDrill => 'Was at', isset($run->plan['follow']) => 'Waits at', default => 'Is now' } }}</dt>
            <dd>@if (!$isDrill && !isset($run->plan['follow']))<span class="mono">{{ $run->plan['machine'] }}</span> at @endif<span
                    class="mono">{{ $run->plan['on'] }}</span>,
                {{ Words::count(count($outcome['disks']), 'disk') }}, {{ Words::size($outcome['bytes']) }} brought</dd>
            <dt>Point</dt>
            <dd><span class="mono">{{ $run->set_name }}</span></dd>
        @endif
    </x-slot:facts>
    <x-slot:back-told>{{ $run->put_back_at === null ? '' : 'The machine was removed.' }}</x-slot:back-told>
    <x-slot:back-means>
        <p class="mb-1">The machine is removed, with all that is on it. {{ ($outcome['placed'] ?? false) ? 'It must be off. '
            . 'One that was started since is left, and named here.' : 'It is not kept in step any more.' }}</p>
    </x-slot:back-means>
    @foreach ($outcome['cautions'] ?? [] as $caution)
        <p class="assumed mb-1">{{ $caution }}</p>
    @endforeach
    @if ($run->state === 'done')
        @php($longest = max([0.001, ...$run->steps->map(fn ($step) => $step->seconds() ?? 0.0)->all()]))
        <h2 class="fs-6">How long each step took</h2>
        <table class="list mb-3">
            <tbody>
                @foreach ($run->steps as $step)
                    <tr>
                        <td>{{ $step->name }}</td>
                        <td class="num text-nowrap">{{ Words::duration($step->seconds() ?? 0.0) }}</td>
                        <td><svg width="120" height="8" aria-hidden="true"><rect width="{{ round(120 * ($step->seconds() ?? 0.0) /
                                $longest, 1) }}" height="8" fill="currentColor" opacity="0.35" /></svg></td>
                        <td class="muted">{{ $step->detail }}</td>
                    </tr>
                @endforeach
            </tbody>
        </table>
        @isset($outcome['boot'])
            @include('kinds.machine.boot', ['boot' => $outcome['boot']])
        @endisset
        @isset($outcome['wanted'])
            <h2 class="fs-6">What it would have sent out of its network apart</h2>
            <ul class="plain-list mono small mb-3">
                @forelse (array_slice($outcome['wanted'], 0, 100) as $wanted)
                    <li>{{ $wanted }}</li>
                @empty
                    <li>nothing</li>
                @endforelse
            </ul>
        @endisset
        <details class="mb-3">
            <summary>What the medium said</summary>
            @include('kinds.machine.medium-said', ['told' => $outcome['told']])
        </details>
        @if ($outcome['next'] !== [])
            <h2 class="fs-6">What it needs now</h2>
            <ul>
                <li>Look at its address and its name before the old one is started again.</li>
                @foreach ($outcome['next'] as $next)
                    <li>{{ $next }}</li>
                @endforeach
            </ul>
        @endif
    @endif
</x-run-page>
