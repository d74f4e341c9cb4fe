@use('App\Words')
@props(['frame', 'sheet', 'because' => null, 'confirm' => null, 'canSaveFirst' => false, 'saveFirst' => false])
@php($request = $frame->request)
@php($approval = $frame->openApproval())
@php($duty = $sheet->touches()->duty)
@php($blockers = $frame->blockers($sheet))
<h2>
    Run <kbd>r</kbd></h2>
@if ($blockers !== [])
    <p class="hint">It cannot run yet:</p>
    <ul>
        @foreach ($blockers as $blocker)
            <li class="attention">{{ $blocker }}</li>
        @endforeach
    </ul>
@else
    <p>{{ $sheet->sentence($frame->zone) }}</p>
    {{ $slot }}
    @php($needs = $sheet->needsApproval())
    @php($order = $sheet->fingerprint())
    @if ($approval !== null)
        <p class="attention">{{ $approval->asker->name }} asked for approval <x-moment :at="$approval->asked_at" :zone="$frame->zone" />;
            nobody has
            answered yet.
            <a href="/approvals/{{ $approval->id }}">Look at it</a>
        </p>
        @if ($approval->order !== $order)
            <p class="attention">The order, or what stands in its target, is another now: ask again.</p>
        @endif
    @endif
    <form method="post" action="/requests/{{ $request->id }}/start" class="inline mb-2">@csrf
        <label for="starts-at">It begins</label>
        <input class="form-control mono w-auto" id="starts-at" name="starts_at" size="22" maxlength="60" placeholder="at once"
            title="Empty for at once, or 2026-11-24 22:30"
            value="{{ $request->starts_at?->setTimezone($frame->zone)->format('Y-m-d H:i P') }}" autocomplete="off">
        <button class="btn btn-sm btn-outline-primary">Set</button>
        <span
            class="muted">{{ $request->starts_at === null ? 'or at a time of yours'
                : Words::moment($request->starts_at, $frame->zone) }}</span>
    </form>
    <form method="post" action="/requests/{{ $request->id }}/run">@csrf
        <input type="hidden" name="order" value="{{ $order }}">
        @if ($canSaveFirst)
            <p><label><input type="checkbox" name="set_first" value="1" @checked($saveFirst)> Make a set of what is there
                    now before that</label></p>
        @endif
        @if ($needs)
            @if ($because !== null)
                <p>{{ $because }}</p>
            @else
                <p>{{ $sheet->marked()[0]->name }} is marked so that {{ $marked ?? 'replacing anything in place' }} waits for a second
                    person.</p>
            @endif
        @endif
        <button id="confirm" class="btn btn-primary" data-focus>
            @if ($needs)
                {{ $approval === null ? 'Ask for approval' : 'Ask again' }}@else{{ $confirm ?? ($request->starts_at === null
                    ? 'Yes, run it now' : 'Yes, run it then') }}
            @endif
        </button>
        <a class="btn" data-key="Backspace" href="{{ $frame->url('when') }}">Not yet</a>
    </form>
    @if ($needs && $duty === null)
        <details class="mt-3" @if ($errors->has('reason')) open @endif>
            <summary>Nobody answers, and it cannot wait</summary>
            <form method="post" action="/requests/{{ $request->id }}/run" class="mt-2">@csrf
                <input type="hidden" name="order" value="{{ $order }}"><input type="hidden" name="set_first"
                    value="{{ $canSaveFirst ? 1 : 0 }}">
                <p class="attention mb-1">It is ordered under your name, an alarm is raised at once,
                    it begins {{ $request->workload->override_wait_min }} min later unless somebody stops it,
                    and it stays listed on every desk until somebody else has reviewed it.</p>
                <label for="reason">Reason</label>
                <div class="d-flex gap-2"><input class="form-control" id="reason" name="reason" minlength="10" maxlength="1000"
                        required>
                    <button class="btn btn-outline-primary text-nowrap">Run without approval</button>
                </div>
            </form>
        </details>
    @endif
@endif
