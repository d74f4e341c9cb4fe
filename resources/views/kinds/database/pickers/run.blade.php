@use('App\Runs\SetAsides')
@use('App\Words')
@php($lost = $sheet->lost())
<x-run-picker :frame="$frame" :sheet="$sheet">
    <x-slot:marked>changing anything in place</x-slot:marked>
    @if ($sheet->order?->isInPlace())
        <p class="attention">{{ implode(', ', $sheet->order->schemas) }} on {{ $sheet->order->server }}
            is replaced{{ $sheet->order->tables === null ? '' : ' in the tables ' . implode(', ', $sheet->order->tables) }}.
            {{ $lost->transactions === 0 ? '' : Words::count($lost->transactions, 'transaction')
                . ' after the stop will not be in it.' }}
            What is there now is kept aside for {{ SetAsides::DAYS }} days, and can be put back.</p>
    @elseif ($view->isByRows())
        <p class="attention">Rows of live tables are changed, in one transaction, each compared first. <a
                href="{{ $frame->url('preview') }}">See which</a>.
            It can be put back.</p>
    @else
        <p>Nothing that is there now will be touched.</p>
    @endif
    <div id="server-notes">
        @foreach ($sheet->checks()?->notes() ?? [] as $note)
            <p class="mb-1">{{ ucfirst($note) }}</p>
        @endforeach
    </div>
</x-run-picker>
