@php($selection = $sheet->selection)
@if (!$selection->isEmpty())
    <form method="post" action="{{ $view->settleUrl() }}" class="mb-2">@csrf<input type="hidden" name="settle" value="pick"><input
            type="hidden" name="back" value="{{ parse_url($what->url(), PHP_URL_QUERY) }}">
        <span class="picked">Picked: {{ $sheet->whatInWords() }}</span>
        @foreach ($sheet->foldersInWords() as $mailbox => $folders)
            <span class="muted small">{{ $mailbox }}: {{ $folders }}</span>
        @endforeach
        <button class="link" id="pick-nothing" name="pick" value="nothing" data-key="Delete">take out</button>
    </form>
@endif
