@php($look = $sheet->look())
@if ($look === null)
    <p class="muted">
        {{ match (true) {
            $sheet->order === null => 'Settle the order, and the mailboxes are looked at.',
            $sheet->order->isToFolder() => 'A new folder: nothing is there.',
            default => 'A message: nothing is there.',
        } }}</p>
@else
    <x-look id="mailboxes-found" :look="$look" :zone="$frame->zone" :url="$frame->url($frame->picker)" :action="$view->lookUrl()"
        :asked="['show' => $frame->picker]" also="#foot:outerHTML">
        <x-check-list :lines="$sheet->lines() ?? []" class="checks" />
    </x-look>
@endif
