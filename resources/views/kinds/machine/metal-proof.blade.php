<x-proof-page :evidence="$evidence" :sound="$sound" :key="$key" :signature="$signature">
    <x-slot:facts>
        <tr>
            <th>Onto</th>
            <td>{{ isset($evidence['at_hypervisor']) ? "a blank machine at {$evidence['at_hypervisor']}," : '' }}
                the machine of enrolment {{ $evidence['enrolment'] }}, {{ $evidence['machine']['product'] }}
                {{ $evidence['machine']['serial'] }}, by {{ strtoupper($evidence['machine']['firmware']) }}</td>
        </tr>
        @foreach ($evidence['disks'] as $disk)
            <tr>
                <th class="mono">{{ $disk['disk'] }}</th>
                <td>onto {{ $disk['onto'] }}, {{ number_format($disk['bytes']) }} bytes, serial number
                    {{ $disk['serial'] === '' ? 'none' : $disk['serial'] }}</td>
            </tr>
        @endforeach
    </x-slot:facts>
    <x-slot:how>The disks can be read on that machine: sfdisk --json has the table of the layout in the signed document, debugfs and
        sha256sum what lies in it, and a partition that came byte by byte has the SHA-256 that stands above.</x-slot:how>
</x-proof-page>
