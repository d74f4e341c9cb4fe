<h2>
    Where <kbd>d</kbd></h2>
@php($inPlace = (bool) ($sheet->choice['in-place'] ?? false))
<form method="post" action="/requests/{{ $request->id }}/database">@csrf<input type="hidden" name="set" value="where">
    <p><label for="server">Server</label><select class="form-select w-auto" id="server" name="server">
            @foreach ($view->servers() as $server)
                <option value="{{ $server->name }}" @selected($server->name === ($sheet->order->server
                    ?? $sheet->server?->name))>{{ $server->name }},
                    {{ $server->host }}:{{ $server->port }}{{ $server->facts === null ? '' : ', ' . $server->facts['version'] }}
                </option>
            @endforeach
        </select><span class="form-text d-block">Another one is made known with <span class="mono">bin/kaiseki server add NAME --host=
                --port= --user=</span></span></p>
    <fieldset>
        <legend class="h6">Into</legend>
        <div class="choice"><input type="radio" id="in-place-0" name="in_place" value="0" @checked(!$inPlace && !$view->isByRows())><label
                for="in-place-0">a schema of another name</label>
            <div class="form-text">Nothing that is there is touched. Views, triggers, routines and events point into it, and events do
                not run.</div>
        </div>
        <p class="schema-name"><label class="muted" for="schema">named</label> <input class="form-control mono w-auto d-inline-block"
                id="schema" name="schema" size="36" maxlength="64"
                value="{{ old('schema', $sheet->choice['schema'] ?? ($sheet->points->schemas()[0]
                    ?? 'schema') . '_request_' . $request->id) }}">
        </p>
        <div class="choice"><input type="radio" id="in-place-1" name="in_place" value="1" @checked($inPlace)><label
                for="in-place-1">its own place</label>
            <div class="form-text">It is loaded beside, checked, and then all tables change places at once. What was there is kept
                aside, and can be put back.</div>
        </div>
    </fieldset>
    <button class="btn btn-primary mt-2">Settle it</button>
    @if ($view->isByRows())
        <p class="muted mt-2">Now it goes by rows into the live tables; settling a place here brings whole tables instead.</p>
    @endif
</form>
