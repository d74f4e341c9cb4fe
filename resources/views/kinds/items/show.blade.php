@php($sheet = $view->sheet)
@php($frame = $view->frame)
@php($request = $view->request)
<x-request-page :frame="$frame" :blockers="$sheet->blockers()" :hand-sheet="$sheet->hasHandSheet()"
    :is-looked="$sheet->order === null || ! $sheet->order->isToServer() || $sheet->lines() !== null">
    <x-slot:sentence>Bring back <x-blank :frame="$frame" picker="what"
        :gap="$sheet->chosen === []">{{ $sheet->whatInWords() }}</x-blank> of <x-blank :frame="$frame" picker="when"
        key="source">{{ $sheet->workload->name }}</x-blank> {{ $sheet->selection->asOf() }} <x-blank :frame="$frame" picker="when" key="at"
        :gap="$sheet->point === null">{{ $sheet->whenInWords($frame->zone) }}</x-blank> into <x-blank :frame="$frame" picker="where"
        :gap="$sheet->order === null && $sheet->chosen !== []">{{ $sheet->whereInWords() }}</x-blank>, <x-blank :frame="$frame"
        picker="how">{{ $sheet->conflictInWords() }}</x-blank>, and check {{ $sheet->checkInWords() }}.
    </x-slot:sentence>
    <x-slot:slip>@include('kinds.items.slip')</x-slot:slip>
    @include($frame->picker === 'proof' ? 'requests.proof' : 'kinds.items.pickers.' . $frame->picker)
</x-request-page>
