<x-run-picker :frame="$frame" :sheet="$sheet">
    <p class="mono">{{ $view->folder() }}</p>
    @if ($sheet->mayReplace())
        <p class="attention">It goes there {{ $sheet->files->conflict->words() }}. What is replaced is kept aside, and can be put
            back.</p>
    @else
        <p>Nothing that is there now will be touched.</p>
    @endif
</x-run-picker>
