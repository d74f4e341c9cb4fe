<x-request-page :frame="$frame" :blockers="$sheet->blockers()">
    <x-slot:sentence>Open <x-blank :frame="$frame" picker="when">{{ $sheet->point?->name ?? 'no jar yet' }}</x-blank>.</x-slot:sentence>
    <x-slot:slip>
        <p>Jam keeps.</p>
    </x-slot:slip>
    @if ($frame->picker === 'proof')
        @include('requests.proof')
    @elseif ($frame->picker === 'run')
        <x-run-picker :frame="$frame" :sheet="$sheet">Mind the lid.</x-run-picker>
    @else<p>The shelf.</p>
    @endif
</x-request-page>
