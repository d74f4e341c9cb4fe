@use('App\Kinds\Machines\Blank\BlankOrder')
@use('App\Kinds\Machines\Metal\MetalOrder')
@use('App\Words')
@use('Kaiseki\Core\Catalog\Shown')
@php($outcome = $run->outcome ?? [])
@php($isFiles = !isset($outcome['disks']))
@if (($run->plan['way'] ?? '') === MetalOrder::WAY)
    @include('kinds.machine.metal-run')
@elseif (($run->plan['way'] ?? '') === BlankOrder::WAY)
    @include('kinds.machine.blank-run')
@elseif (isset($run->plan['on']))
    @include('kinds.machine.placed-run')
@else
<x-run-page :run="$run" :beside="$isFiles ? ['manifest' => 'Manifest for b2sum'] : []"
    go-on-hint="what is in place and right stays; the rest is brought again">
    <x-slot:came>{{ $isFiles ? Words::count($outcome['files'] ?? 0, 'file') : Words::count(count($outcome['disks']), 'image') }},
        {{ Words::size($outcome['bytes'] ?? 0) }}</x-slot:came>
    <x-slot:wrong>{{ $isFiles ? 'what is missing or different stands below.'
        : Words::count($outcome['missing'] ?? 0, 'block') . ' could not be had, and are zeros.' }}</x-slot:wrong>
    <x-slot:set-aside>{{ Words::count($outcome['set_aside'] ?? 0, 'thing') }} that it replaced</x-slot:set-aside>
    <x-slot:facts>
        @if ($run->state === 'done')
            <dt>Is now in</dt>
            <dd class="mono">
                {{ ($run->plan['host'] ?? '') === '' ? ''
                    : $run->plan['host'] . ':' }}{{ Shown::name(rawurldecode($run->plan['folder'] ?? $run->plan['target'])) }}
            </dd>
            <dt>Point</dt>
            <dd><span class="mono">{{ $run->set_name }}</span></dd>
        @endif
    </x-slot:facts>
    <x-slot:back-told>{{ Words::count($outcome['put_back']['removed'] ?? 0, 'file') }} that it had written went.</x-slot:back-told>
    <x-slot:back-means>
        <p class="mb-1">What this run wrote is removed, and what it replaced comes back. What somebody has changed since is left, and
            named here.</p>
    </x-slot:back-means>
    @foreach ($outcome['losses'] ?? [] as $loss)
        <p class="assumed mb-1">{{ $loss }}</p>
    @endforeach
    @if ($run->state === 'done' && $isFiles)
        <ul class="plain-list">
            @foreach (array_slice([...$outcome['differences'], ...$outcome['left_out']], 0, 200) as $row)
                <li><span class="mono">/{{ $row['path'] }}</span>: <span
                        @if ($row['loss']) class="attention" @endif>{{ $row['because'] }}</span></li>
            @endforeach
        </ul>
    @elseif ($run->state === 'done')
        <table class="list mb-3">
            <thead>
                <tr>
                    <th>Image</th>
                    <th class="num">Disk</th>
                    <th class="num">In use</th>
                    <th class="num">Blocks checked</th>
                    <th class="num">From elsewhere</th>
                    <th class="num">Left as zeros</th>
                </tr>
            </thead>
            <tbody>
                @foreach ($outcome['disks'] as $disk)
                    <tr>
                        <td class="mono">
                            @can('download', $run)
                                <a href="/runs/{{ $run->id }}/images/{{ rawurlencode($disk['file']) }}">{{ $disk['file'] }}</a>
                            @else
                                {{ $disk['file'] }}
                            @endcan
                        </td>
                        <td class="num">{{ Words::size($disk['size']) }}</td>
                        <td class="num">{{ Words::size($disk['data']) }}</td>
                        @include('kinds.machine.run-blocks')
                    </tr>
                @endforeach
            </tbody>
        </table>
    @endif
</x-run-page>
@endif
