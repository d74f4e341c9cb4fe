<x-run-picker :frame="$frame" :sheet="$sheet">
    @if ($sheet->isAtHypervisor)
        @if ($sheet->mayReplace())
            <p class="attention">What stands there is kept under another name, or beside, and can be put back.</p>
        @else
            <p>Nothing that is there now will be touched.</p>
        @endif
    @elseif ($sheet->into() !== null)
        <p class="mono">{{ $view->whereInWords() }}</p>
        <p class="attention">That machine's disks are written to, {{ $sheet->conflict()->words() }}. What is replaced is kept aside, and
            can be put back.</p>
    @elseif ($sheet->mayReplace())
        <p class="mono">{{ $view->folder() }}</p>
        <p class="attention">It goes there {{ $sheet->conflict()->words() }}. What is replaced is kept aside, and can be put
            back.</p>
    @else
        <p class="mono">{{ $view->folder() }}</p>
        <p>Nothing that is there now will be touched.</p>
    @endif
</x-run-picker>
