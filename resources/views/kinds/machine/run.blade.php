@use('App\Words')
@use('Kaiseki\Core\Catalog\Shown')
@php($outcome = $run->outcome ?? [])
<x-run-page :run="$run" go-on-hint="it begins anew: nothing of it is in place before all of it is">
    <x-slot:came>{{ Words::count(count($outcome['disks'] ?? []), 'image') }}, {{ Words::size($outcome['bytes'] ?? 0) }}</x-slot:came>
    <x-slot:wrong>{{ Words::count($outcome['missing'] ?? 0, 'block') }} could not be had, and are zeros.</x-slot:wrong>
    <x-slot:set-aside></x-slot:set-aside>
    <x-slot:facts>
        @if ($run->state === 'done')
            <dt>Is now in</dt>
            <dd class="mono">
                {{ ($run->plan['host'] ?? '') === '' ? '' : $run->plan['host'] . ':' }}{{ Shown::name(rawurldecode($run->plan['folder'])) }}
            </dd>
            <dt>Point</dt>
            <dd><span class="mono">{{ $run->set_name }}</span></dd>
        @endif
    </x-slot:facts>
    <x-slot:back-told>{{ Words::count($outcome['put_back']['removed'] ?? 0, 'file') }} that it had written went.</x-slot:back-told>
    <x-slot:back-means>
        <p class="mb-1">The images that this run wrote are removed, if nobody has changed them since.</p>
    </x-slot:back-means>
    @if ($run->state === 'done')
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
                        <td class="mono">{{ $disk['file'] }}</td>
                        <td class="num">{{ Words::size($disk['size']) }}</td>
                        <td class="num">{{ Words::size($disk['data']) }}</td>
                        <td class="num">{{ number_format($disk['blocks']) }}</td>
                        <td class="num">{{ $disk['bridged'] === 0 ? '' : number_format($disk['bridged']) }}</td>
                        <td class="num @if ($disk['missing'] > 0) attention @endif">
                            {{ $disk['missing'] === 0 ? '' : number_format($disk['missing']) }}</td>
                    </tr>
                @endforeach
            </tbody>
        </table>
    @endif
</x-run-page>
