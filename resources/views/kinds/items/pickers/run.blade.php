@use('App\Kinds\Items\Order\ItemCount')
<x-run-picker :frame="$frame" :sheet="$sheet"
    :because="$sheet->order?->isForTheLaw() ? 'What goes to the law waits for a second person, who may search for it too.' : null">
    <x-slot:marked>writing to its mailboxes</x-slot:marked>
    @if ($sheet->order?->isToServer())
        <p>{{ ItemCount::of($sheet->chosen) }}: what is missing is laid into {{ $sheet->whereInWords() }}, {{ $sheet->conflictInWords() }}.
            Whoever reads that mailbox sees it at once. It can be put back.</p>
    @elseif ($sheet->order !== null && !$sheet->order->isToFolder())
        <p>{{ ItemCount::of($sheet->chosen) }} leave for {{ $sheet->order->send }} at once. It cannot be put back.</p>
    @else
        <p>Nothing that is there now will be touched.</p>
    @endif
</x-run-picker>
