<x-run-picker :frame="$frame" :sheet="$sheet">
    <p class="mono">{{ $view->folder() }}</p>
    <p>Nothing that is there now will be touched.</p>
</x-run-picker>
