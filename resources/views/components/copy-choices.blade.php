@use('App\Words')
@props(['frame', 'copies'])
@php($request = $frame->request)
@php($choices = $copies?->all() ?? [])
@if ($choices !== [])
    <h3 class="h6 mt-4" id="copies">
        Read from</h3>
    <form method="post" action="/requests/{{ $request->id }}/copies">@csrf
        <table class="list mb-2">
            <thead>
                <tr>
                    <th>Store</th>
                    <th>Site</th>
                    <th class="num">Has, of {{ Words::count($copies->setsNeeded(), 'set') }}</th>
                    <th>As is best</th>
                    <th>Where it has a copy</th>
                    <th>Not from here</th>
                </tr>
            </thead>
            <tbody>
                @foreach ($choices as $line)
                    <tr>
                        <td class="tight">{{ $line->store->name }}</td>
                        <td class="tight">{{ $line->store->site }}</td>
                        <td class="num">{{ $line->sets }}</td>
                        @foreach ($line->ways() as $value => [$estimate, $words])
                            <td class="tight">
                                @if ($estimate !== null)
                                    <label><input type="radio" name="from[{{ $line->store->id }}]" value="{{ $value }}"
                                            @checked($line->choice === $value) aria-label="{{ $line->store->name }}: {{ $words }}">
                                    {{ Words::duration($estimate->whole->likely) }}</label>@else<span class="muted">only
                                        copy</span>
                                @endif
                            </td>
                        @endforeach
                    </tr>
                @endforeach
            </tbody>
        </table>
        <button class="btn btn-sm btn-outline-primary">Settle it</button>
    </form>
    @php($far = $copies->farSets())
    @php($near = $copies->nearStore())
    @if ($far !== [] && $near !== null)
        <form method="post" action="/requests/{{ $request->id }}/bring" class="mt-2">@csrf<button
                class="btn btn-sm btn-outline-primary">Bring {{ Words::count(count($far), 'set') }} to {{ $near->name }}
                first</button> <span class="muted">so that what follows is read beside the target</span></form>
    @endif
    @php($bringing = $frame->bringing())
    @if ($bringing !== null)
        <p id="bringing" class="mt-2 {{ $bringing->failed !== null ? 'attention' : 'muted' }}" role="status"
            @if ($bringing->isAtWork()) hx-get="{{ $frame->url('how') }}"
                hx-select="#bringing" hx-target="#bringing" hx-swap="outerHTML" hx-trigger="every 2s" @endif>
            {{ $bringing->failed ?? "{$bringing->done} of " . Words::count($bringing->all, 'set')
                . " brought to {$bringing->store}." }}
            @if ($bringing->isThere())
                <a href="{{ $frame->url('how') }}">Plan again with them</a>
            @endif
        </p>
    @endif
@endif
