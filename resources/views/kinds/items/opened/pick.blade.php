<form method="post" action="{{ $view->settleUrl() }}"
    class="{{ $opened->appointment?->repeats() ? 'd-inline-block mb-1' : 'mb-2' }}">@csrf<input type="hidden" name="settle"
        value="pick"><input
        type="hidden" name="item" value="{{ $item->key() }}"><input type="hidden" name="items[]" value="{{ $item->key() }}"><input
        type="hidden" name="back" value="{{ parse_url($what->url(item: $item->key()), PHP_URL_QUERY) }}">
    @if ($what->isPicked($item))
        <span class="picked">It is picked.</span> <button class="link" name="pick" value="drop">Take it out</button>
    @elseif ($opened->isAtPoint())
        <button class="btn btn-sm {{ $opened->appointment?->repeats() ? 'btn-outline-primary' : 'btn-primary' }}" id="pick-only"
            name="pick" value="only" @if (!$opened->appointment?->repeats()) data-focus @endif>Pick this
            {{ $opened->appointment?->repeats() ? 'whole series' : $item->sort->noun() }}</button>
        @if ($opened->thread !== [] && $opened->message !== null)
            <button class="btn btn-sm btn-outline-primary" id="pick-thread" name="pick" value="thread">and its thread</button>
        @endif
        @if ($sheet->selection->items !== [])
            <button class="btn btn-sm btn-outline-primary" name="pick" value="ticked">and those picked before</button>
        @endif
    @else
        <span class="attention">It is not at the point in hand: choose one under When at which it was there.</span>
    @endif
</form>
