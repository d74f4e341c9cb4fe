@props(['frame', 'label'])
@php($request = $frame->request)
<div class="headed">
    <h2>When <kbd>w</kbd></h2>
    <form method="post" action="/requests/{{ $request->id }}/moment" class="moment">@csrf
        <label class="muted" for="wanted_at">{{ $label }}</label>
        <input class="form-control mono" id="wanted_at" name="wanted_at" size="24" maxlength="100"
            title="2026-11-12 19:30, or words: Thursday evening, yesterday 14:30, 3 days ago"
            value="{{ old('wanted_at', $request->wanted_at->setTimezone($frame->zone)->format('Y-m-d H:i P')) }}" required
            autocomplete="off">
        <button class="btn btn-sm btn-outline-primary">Set</button>
    </form>
</div>
