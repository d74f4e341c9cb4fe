@php($selection = $sheet->selection)
@if (!$selection->isEmpty())
    <form method="post" action="{{ $view->settleUrl() }}" class="mb-2">@csrf<input type="hidden" name="settle" value="pick"><input
            type="hidden" name="back" value="{{ parse_url($what->url(), PHP_URL_QUERY) }}">
        <span class="picked">Picked: {{ $sheet->whatInWords() }}</span>
        @foreach ($sheet->byFolder() as $mailbox => $folders)
            <span class="muted small">{{ $mailbox }}:
                @php($first = array_slice($folders, 0, 6))
                {{ implode(', ', array_map(fn(string $folder, int $count): string => "$folder $count", array_keys($first), $first))
                    }}{{ count($folders) > 6 ? ' and ' . (count($folders) - 6) . ' more' : '' }}</span>
            @break($loop->iteration === 4)
        @endforeach
        <button class="link" id="pick-nothing" name="pick" value="nothing" data-key="Delete">take out</button>
    </form>
@endif
