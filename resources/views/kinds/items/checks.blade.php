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
        <dl class="facts checks">
            @foreach ($sheet->lines() ?? [] as $line)
                <dt>{{ ucfirst($line['check']) }}</dt>
                <dd class="{{ $line['result'] === 'failed' ? 'attention' : ($line['result'] === 'note' ? '' : 'muted') }}">
                    {{ $line['detail'] }}</dd>
            @endforeach
        </dl>
    </x-look>
@endif
