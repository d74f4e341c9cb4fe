<form method="post" action="{{ $view->settleUrl() }}" class="d-inline-block me-2">@csrf<input type="hidden" name="settle"
        value="pick"><input type="hidden" name="item" value="{{ $item->key() . '@' . $chosen->key }}"><input type="hidden"
        name="items[]" value="{{ $item->key() . '@' . $chosen->key }}"><input type="hidden" name="back"
        value="{{ parse_url($what->url(item: $item->key(), day: $chosen->key), PHP_URL_QUERY) }}">
    @if ($what->isDayPicked($item, $chosen->key))
        <span class="picked">This day is picked, without the rest of its series.</span> <button class="link" name="pick"
            value="drop">Take it out</button>
    @elseif ($opened->isAtPoint())
        <button class="btn btn-sm btn-primary" id="pick-day" name="pick" value="only" data-focus>Pick this day only</button>
    @endif
</form>
