@props(['frame'])
@php($request = $frame->request)
@if ($request->requester->zone !== $frame->zone)
    <p class="assumed">
        For {{ $request->requester->name }} that is <x-moment :at="$request->wanted_at" :zone="$request->requester->zone" />.</p>
@endif
@if ($request->wanted_words !== null)
    <p class="assumed">@php($span = $frame->wantedSpan()){{ $span?->assumption }}@if ($span?->other !== null)
            <form method="post" action="/requests/{{ $request->id }}/moment" class="d-inline">@csrf<button class="link" name="wanted_at"
                    value="{{ $span->other->iso() }}">Take the second</button></form>
        @endif
    </p>
@endif
