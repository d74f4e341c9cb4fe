@php($sheet = $view->sheet)
@php($frame = $view->frame)
@php($request = $view->request)
@php($isFiles = $sheet->isFiles())
<x-request-page :frame="$frame" :blockers="$sheet->blockers()" :hand-sheet="$sheet->point !== null && !$sheet->isFiles()">
    <x-slot:sentence>
    @if ($sheet->isAtHypervisor)
        Bring <x-blank :frame="$frame" picker="what">{{ $view->whatInWords() }}</x-blank> of <x-blank :frame="$frame" picker="when"
            key="source">{{ $sheet->workload->name }}</x-blank> back as it was on <x-blank :frame="$frame" picker="when" key="at"
            :gap="$sheet->point === null">{{ $view->whenInWords() }}</x-blank>, <x-blank :frame="$frame" picker="how"
            key="way">{{ $sheet->way()->words() }}</x-blank>, to <x-blank :frame="$frame" picker="where"
            :gap="$sheet->placement() === null">{{ $view->whereInWords() }}</x-blank>, and check it by <x-blank :frame="$frame"
            picker="how" key="checks">{{ $view->checksInWords() }}</x-blank>.
    @else
    {{ $isFiles ? 'Put back' : 'Write' }} <x-blank :frame="$frame" picker="what"
            :gap="$sheet->plan === null">{{ $view->whatInWords() }}</x-blank> {{ $isFiles ? 'out of' : 'of' }} <x-blank
            :frame="$frame" picker="when" key="source">{{ $sheet->workload->name }}</x-blank> as it was on <x-blank :frame="$frame"
            picker="when" key="at" :gap="$sheet->point === null">{{ $view->whenInWords() }}</x-blank>
        @if (!$isFiles)
            as <x-blank :frame="$frame" picker="how" key="format">{{ $view->format()->extension() }}</x-blank>{{ $sheet->said->part
                ? ', with zeros for what cannot be had,' : '' }}
        @endif
        into <x-blank :frame="$frame" picker="where" :gap="$sheet->plan === null">{{ $view->whereInWords() }}</x-blank>,
        @if ($sheet->conflict() !== null)
            <x-blank :frame="$frame" picker="how" key="conflict">{{ $sheet->conflict()->words() }}</x-blank>,
        @endif
        and check it by <x-blank :frame="$frame" picker="how"
            key="checks">{{ $view->checkedBy() }}</x-blank>.
    @endif
    </x-slot:sentence>
    <x-slot:slip>@include('kinds.machine.slip')</x-slot:slip>
    @include($frame->picker === 'proof' ? 'requests.proof' : 'kinds.machine.pickers.' . $frame->picker)
</x-request-page>
