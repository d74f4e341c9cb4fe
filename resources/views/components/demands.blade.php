@use('Kaiseki\Core\Chain\Demands')
@props(['frame', 'demands', 'within' => true])
@php($request = $frame->request)
<div class="toggles">
    <form method="post" action="/requests/{{ $request->id }}/demands">@csrf<input type="hidden" name="show"
            value="{{ $frame->picker }}">
        @foreach (['consistent' => ['consistent', $demands->consistent], 'clear' => ['not in doubt', $demands->clear],
            'checked' => ['read back', $demands->checked], 'site' => ['at ' . ucfirst($request->workload->site),
            $demands->site !== null]] as $name => [$words, $on])
            <button id="demand-{{ $name }}" class="toggle" name="demand" value="{{ $name }}"
                aria-pressed="{{ $on ? 'true' : 'false' }}">{{ $words }}</button>
        @endforeach
    </form>
    @if ($within)
        <form method="post" action="/requests/{{ $request->id }}/demands">@csrf<input type="hidden" name="show"
                value="{{ $frame->picker }}"><input type="hidden" name="demand" value="within"><label
                class="{{ $demands->withinSeconds === null ? 'muted' : '' }}" for="within">no older than</label><input
                class="form-control mono" id="within" name="within" size="4" maxlength="8" placeholder="any"
                title="30m, 36h or 7d; empty for any age"
                value="{{ $demands->withinSeconds === null ? '' : Demands::spanInWords($demands->withinSeconds) }}" autocomplete="off">
        </form>
    @endif
</div>
