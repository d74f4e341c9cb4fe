@use('App\Words')
<x-run-picker :frame="$frame" :sheet="$sheet">
    <x-slot:marked>adding to its mailboxes</x-slot:marked>
    @if ($sheet->order?->isToServer())
        <p>{{ Words::count(count($sheet->chosen), 'message') }} {{ $sheet->said->conflict === 'beside' ? 'are' : 'that are missing are' }}
            laid into {{ $sheet->whereInWords() }}. Whoever reads that mailbox sees them at once. It can be put back.</p>
    @else
        <p>Nothing that is there now will be touched.</p>
    @endif
</x-run-picker>
