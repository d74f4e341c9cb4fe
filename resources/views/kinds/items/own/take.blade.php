<form method="get" action="{{ $what->address() }}/order" class="mb-2 d-inline-block me-2"><input type="hidden" name="mailbox"
        value="{{ $what->box->name }}"><input type="hidden" name="items" value="{{ $item->key() }}">
    <button class="btn btn-sm btn-primary" id="bring-it" data-focus>Bring back this
        {{ $opened->appointment?->repeats() ? 'whole series' : $item->sort->noun() }}</button>
    @if ($item->isThere())
        <span class="muted">It is there still, as far as the newest set knows.</span>
    @endif
</form>
