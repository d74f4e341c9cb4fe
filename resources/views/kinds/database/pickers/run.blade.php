@use('App\Runs\SetAsides')
@use('App\Words')
@php($lost = $sheet->lost())
<x-run-picker :frame="$frame" :sheet="$sheet">
    <x-slot:marked>changing anything in place</x-slot:marked>
    @if ($sheet->order?->isInPlace())
        <p class="attention">{{ implode(', ', $sheet->order->schemas) }} on {{ $sheet->order->server }}
            is replaced{{ $sheet->order->tables === null ? '' : ' in the tables ' . implode(', ', $sheet->order->tables) }}.
            {{ $lost['transactions'] === 0 ? '' : Words::count($lost['transactions'], 'transaction')
                . ' after the stop will not be in it.' }}
            What is there now is kept aside for {{ SetAsides::DAYS }} days, and can be put back.</p>
    @elseif ($view->isByRows())
        <p class="attention">Rows of live tables are changed, in one transaction, each compared first. <a
                href="{{ $frame->url('preview') }}">See which</a>.
            It can be put back.</p>
    @else
        <p>Nothing that is there now will be touched.</p>
    @endif
    @foreach ($sheet->checks()->lines ?? [] as $line)
        @if ($line['result'] === 'note')
            <p class="mb-1"><strong>{{ ucfirst($line['check']) }}</strong>: {{ $line['detail'] }}</p>
        @endif
    @endforeach
</x-run-picker>
