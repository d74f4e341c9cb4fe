@php($sheet = $view->sheet)
@php($frame = $view->frame)
@php($request = $view->request)
<x-request-page :frame="$frame" :blockers="$sheet->blockers()" :hand-sheet="$sheet->reaches !== []"
    :is-looked="$sheet->order === null || $sheet->checks() !== null">
    <x-slot:sentence>{{ $view->isByRows() ? ($sheet->order->way === 'reverse' ? 'Reverse' : 'Bring back') : 'Restore' }} <x-blank
            :frame="$frame" picker="what" :gap="$sheet->order === null">{{ $sheet->whatInWords() }}</x-blank> of <x-blank :frame="$frame"
            picker="when" key="source">{{ $sheet->workload->name }}</x-blank> <x-blank :frame="$frame" picker="when" key="at"
            :gap="$sheet->order === null">{{ $sheet->whenInWords($frame->zone) }}</x-blank>{{ ($sheet->order->skip ?? []) === [] ? ''
                : ', without' }}
        @if (($sheet->order->skip ?? []) !== [])
            <x-blank :frame="$frame" picker="how" key="skip">{{ implode(', ', $sheet->order->skip) }}</x-blank>,
        @endif
        {{ $view->isByRows() ? 'in' : 'into' }} <x-blank :frame="$frame" picker="where"
            :gap="$sheet->order === null">{{ $sheet->whereInWords() }}</x-blank>, <x-blank :frame="$frame" picker="how"
            key="way">{{ $sheet->touchesInWords() }}</x-blank>, and check it by rows, checksums and keys.
    </x-slot:sentence>
    <x-slot:slip>@include('kinds.database.slip')</x-slot:slip>
    @include($frame->picker === 'proof' ? 'requests.proof' : 'kinds.database.pickers.' . $frame->picker)
</x-request-page>
