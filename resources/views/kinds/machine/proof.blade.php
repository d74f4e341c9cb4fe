@use('App\Trees\Run\PathInJson')
@use('Kaiseki\Core\Catalog\Shown')
@if (isset($evidence['enrolment']))
    @include('kinds.machine.metal-proof')
@elseif (isset($evidence['hypervisor']))
    @include('kinds.machine.placed-proof')
@else
<x-proof-page :evidence="$evidence" :sound="$sound" :key="$key" :signature="$signature">
    <x-slot:facts>
        <tr>
            <th>Into</th>
            <td class="mono">{{ $evidence['host'] === null ? '' : $evidence['host'] . ':' }}{{ Shown::name(is_array($evidence['target'])
                ? PathInJson::parse($evidence['target']) : $evidence['target']) }}</td>
        </tr>
        <tr>
            <th>{{ isset($evidence['format']) ? 'As' : 'Came back' }}</th>
            <td>{{ $evidence['format'] ?? number_format($evidence['files']) . ' files, ' . number_format($evidence['bytes']) . ' bytes' }}
            </td>
        </tr>
    </x-slot:facts>
    @foreach ($evidence['paths'] ?? [] as $row)
        <p class="mono">{{ Shown::name(PathInJson::parse($row)) }}</p>
    @endforeach
    @foreach ([...$evidence['differences'] ?? [], ...$evidence['left_out'] ?? []] as $row)
        <p>/{{ $row['path'] }}: {{ $row['because'] }}</p>
    @endforeach
    @foreach ($evidence['disks'] ?? [] as $disk)
        <h2 class="mono">{{ $disk['file'] }}</h2>
        <table>
            <tr>
                <th>Disk</th>
                <td>{{ number_format($disk['size']) }} bytes, {{ number_format($disk['blocks']) }} blocks of
                    {{ number_format($evidence['block_bytes']) }} bytes checked</td>
            </tr>
            <tr>
                <th>{{ $evidence['format'] === 'raw' ? 'BLAKE2b-256 of the list of its blocks' : 'BLAKE2b-256' }}</th>
                <td class="mono">{{ $disk['blake2b_256'] }}</td>
            </tr>
            @include('kinds.machine.proof-read')
        </table>
    @endforeach
    <x-slot:how>b2sum --length=256 --check reads the file of digests beside the images; qemu-img convert makes a raw disk of each, whose
        every 64 KiB have the digests that the catalog holds.</x-slot:how>
</x-proof-page>
@endif
