@use('App\Kinds\Items\Order\ItemConflict')
<h2>
    How <kbd>h</kbd></h2>
<p class="hint">Each is compared with its digest as it is read, and again as the server gives it back.</p>
<form method="post" action="{{ $view->settleUrl() }}">@csrf<input type="hidden" name="settle" value="how">
    <fieldset class="mb-3">
        <legend class="h6">What is there already</legend>
        @foreach (ItemConflict::cases() as $rule)
            <div class="choice"><input type="radio" id="if-{{ $rule->value }}" name="conflict" value="{{ $rule->value }}"
                    @checked($sheet->said->conflict === $rule->value)
                    @if ($sheet->said->conflict === $rule->value) data-focus @endif><label
                    for="if-{{ $rule->value }}">{{ $rule->words() }}</label>
                <div class="form-text">
                    {{ $rule->means() }}</div>
            </div>
        @endforeach
    </fieldset>
    <button class="btn btn-primary">Settle it</button>
</form>
<x-copy-choices :frame="$frame" :copies="$sheet->copies()" />
<h3 class="h6 mt-4">Always checked</h3>
<dl class="facts">
    <dt>Content</dt>
    <dd>BLAKE2b-256 of every message, with its lines ended as they are stored; of appointments and contacts every field</dd>
    <dt>Date, flags, keywords</dt>
    <dd>as they were at the point</dd>
    <dt>Count</dt>
    <dd>everything picked is there, or is listed with the reason</dd>
</dl>
<p class="muted mt-3">A message is never written over: one with another content is another message. A day that is picked out of a series is
    brought into the series as it is now, whatever is chosen here, and nobody is sent an invitation.</p>
