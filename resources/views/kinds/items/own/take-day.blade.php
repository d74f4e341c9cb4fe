<form method="get" action="{{ $what->address() }}/order" class="d-inline-block me-2"><input type="hidden" name="mailbox"
        value="{{ $what->box->name }}"><input type="hidden" name="items" value="{{ $item->key() . '@' . $chosen->key }}">
    <button class="btn btn-sm btn-outline-primary" id="bring-day">Bring back this day only</button>
</form>
