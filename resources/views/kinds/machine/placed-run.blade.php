@use('App\Kinds\Kinds')
@use('App\Kinds\Machines\Page\MachineView')
@use('Kaiseki\Core\Catalog\Shown')
@php($zone = auth()->user()->zone)
@php($stands = $view->stands())
@if ($stands !== null)
    @include('kinds.machine.standing', ['view' => $stands, 'zone' => $zone])
@endif
@php($annex = $view->annex())
@if ($annex !== null)
    @include('kinds.machine.annex', ['view' => $annex, 'zone' => $zone])
@endif
@php($follows = $view->follows())
@if ($follows !== null)
    @include('kinds.machine.following', ['following' => $follows, 'zone' => $zone])
@endif
@php($home = $view->home())
@php($isHome = $view->isHome())
@if ($home !== null)
    @include('kinds.machine.home', ['view' => $home, 'zone' => $zone])
@endif
<x-run-page :run="$run" :beside="[]" :back-title="$view->backTitle()"
    go-on-hint="what is made and right stays; the rest is made again">
    <x-slot:came>{{ Kinds::of($run)->carrier()->came($run) }}</x-slot:came>
    <x-slot:wrong>what is not right stands below.</x-slot:wrong>
    <x-slot:set-aside>What stood {{ $isHome ? 'in' : 'there' }}{{ isset($outcome['aside']) ? ", as {$outcome['aside']}"
        : '' }}</x-slot:set-aside>
    <x-slot:facts>
        @if ($run->state === 'done')
            <dt>Is now</dt>
            <dd><a class="mono" href="{{ MachineView::ofRun($run) }}">{{ MachineView::nameAfter($run) }}</a> at <span
                    class="mono">{{ $run->plan['on'] }}</span></dd>
            <dt>Point</dt>
            <dd><span class="mono">{{ $run->set_name }}</span></dd>
            @if (isset($outcome['aside']) && !$isHome)
                <dt>Set aside as</dt>
                <dd class="mono">{{ $outcome['aside'] }}</dd>
            @endif
        @endif
    </x-slot:facts>
    <x-slot:back-told>{{ $run->put_back_at === null ? '' : 'What stood there is there again.' }}</x-slot:back-told>
    <x-slot:back-means>
        @if ($isHome)
            <p class="mb-1">What is at home is shut down, and stays there, off; the one that stood in at
                <span class="mono">{{ $run->plan['from'] }}</span> is started again, as it was shut down, and sets are made of it.</p>
            <p class="mb-1"><label><input type="checkbox" name="also_changed" value="1" required> What came at home since stays behind
                    there</label></p>
        @elseif ($stands !== null)
            <p class="mb-1">The machine is ended and goes, with all that it wrote since it was stood up; what this run set aside comes back.
            </p>
        @else
            <p class="mb-1">What this run brought goes, and what it set aside comes back. The machine must be off. What was changed since is
                left, and named here.</p>
        @endif
    </x-slot:back-means>
    @foreach (array_slice($outcome['left_out'] ?? [], 0, 200) as $left)
        <p class="mb-0"><span class="mono">/{{ Shown::name($left['path']) }}</span>: {{ $left['because'] }}</p>
    @endforeach
    @if ($run->state === 'done' && isset($outcome['boot']))
        @include('kinds.machine.boot', ['boot' => $outcome['boot']])
    @endif
    @if ($run->state === 'done' && ($outcome['disks'] ?? []) !== [])
        <table class="list mb-3">
            <thead>
                <tr>
                    <th>Disk</th>
                    <th class="num">Size</th>
                    <th class="num">Written</th>
                    <th class="num">Blocks checked</th>
                    <th class="num">From elsewhere</th>
                    <th class="num">Left as zeros</th>
                </tr>
            </thead>
            <tbody>
                @foreach ($outcome['disks'] as $disk)
                    <tr>
                        <td class="mono">{{ $disk['disk'] }}</td>
                        <td class="num"><x-size :bytes="$disk['size']" /></td>
                        <td class="num"><x-size :bytes="$disk['data']" /></td>
                        @include('kinds.machine.run-blocks')
                    </tr>
                @endforeach
            </tbody>
        </table>
    @endif
</x-run-page>
