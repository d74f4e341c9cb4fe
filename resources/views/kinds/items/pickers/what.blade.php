@use('App\Kinds\Items\Page\ItemsWhatView')
@use('App\Words')
@php($what = $view->what())
<h2>
    What <kbd>t</kbd></h2>
@if ($sheet->point === null)
    <p class="empty">There is no usable point yet: choose one under When.</p>
@else
    <form method="get" action="/requests/{{ $request->id }}" class="inline mb-1" role="search">
        <input type="hidden" name="show" value="what">
        <label class="visually-hidden" for="items-query">Look for messages, appointments and contacts</label>
        <input class="form-control mono grow" id="items-query" name="q" maxlength="1000" value="{{ $what->query }}"
            @if ($what->opened === '') data-focus @endif
            placeholder="from:purser subject:&quot;dry dock&quot; before:2026-11-02 attachments&gt;0" autocomplete="off">
        <label class="text-nowrap"><input type="checkbox" name="ever" value="1" @checked($what->everywhen)> at any point</label>
        <button class="btn btn-sm btn-primary">Search</button>
    </form>
    <details class="mb-2 small">
        <summary class="muted">What can be looked for</summary>
        <p class="mb-0">Words stand in headers, text or attachments; the beginning of one is enough, and between quotation marks they
            follow one another. Of one field: <span class="mono">from: to: cc: subject: place: name:</span> (of an attachment).
            Besides <span class="mono">kind:message kind:appointment kind:contact
                folder: mailbox: id: before: after: on: is:read is:unread is:flagged is:answered is:gone attachments&gt;0
                size&gt;1M</span>; with <span class="mono">-</span> before a word for not. Days are those of
            {{ $sheet->workload->zone }}.</p>
    </details>
    @if ($what->problem !== null)
        <p class="attention" role="alert">{{ $what->problem }}</p>
    @elseif ($what->isSearch() && $what->waiting() > 0)
        <p class="assumed">{{ Words::count($what->waiting(), 'item') }} are still to be looked through: of these only fields are found so
            far.</p>
    @endif
    <x-left-out :is="$what->leftOut()" />
    @include('kinds.items.picked')
    @php($opened = $what->opened())
    @if ($opened !== null)
        @include('kinds.items.letter')
    @elseif ($what->isSearch() || $what->problem !== null)
        <p class="mb-1"><a href="{{ $frame->url('what') }}" data-key="Backspace">All mailboxes, calendars and contacts</a></p>
        @include('kinds.items.list')
    @else
        <div class="items-halves">
            @include('kinds.items.mailboxes')
            <div>@include('kinds.items.list')</div>
        </div>
    @endif
@endif
