@use('Kaiseki\Core\Catalog\Shown')
@use('Kaiseki\Core\Hypervisor\MachineSettings')
<x-proof-page :evidence="$evidence" :sound="$sound" :key="$key" :signature="$signature">
    <x-slot:facts>
        <tr>
            <th>Is now</th>
            <td><span class="mono">{{ $evidence['machine'] }}</span> at <span class="mono">{{ $evidence['hypervisor'] }}</span></td>
        </tr>
        @if (isset($evidence['files']))
            <tr>
                <th>Files in it</th>
                <td>{{ number_format($evidence['files']) }}</td>
            </tr>
        @endif
        @if (isset($evidence['set_aside']))
            <tr>
                <th>Set aside as</th>
                <td class="mono">{{ $evidence['set_aside'] }}</td>
            </tr>
        @endif
        @if (is_array($evidence['settings'] ?? null))
            @foreach (MachineSettings::fromArray($evidence['settings'])->words() as $what => $words)
                <tr>
                    <th>{{ ucfirst($what) }}</th>
                    <td>{{ $words }}</td>
                </tr>
            @endforeach
        @endif
    </x-slot:facts>
    @foreach ($evidence['left_out'] ?? [] as $left)
        <p>/{{ Shown::name($left['path']) }}: {{ $left['because'] }}</p>
    @endforeach
    @foreach ($evidence['disks'] as $disk)
        <h2 class="mono">{{ $disk['disk'] }}</h2>
        <table>
            <tr>
                <th>Disk</th>
                <td>{{ number_format($disk['size']) }} bytes, {{ number_format($disk['data']) }} of them written,
                    {{ number_format($disk['blocks']) }} blocks of {{ number_format($evidence['block_bytes']) }} bytes checked</td>
            </tr>
            @include('kinds.machine.proof-read')
        </table>
    @endforeach
    <x-slot:how>{{ isset($evidence['files'])
        ? 'The files can be read in the machine; or, while it is off, by debugfs out of its disk.'
        : 'Whoever serves the disk by NBD, off, can read it again: every 64 KiB have the digests that the catalog holds.' }}</x-slot:how>
</x-proof-page>
