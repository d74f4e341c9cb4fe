@php($page = $view->items())
@if ($view->query === '')
    <h2>Gone from it</h2>
@else
    <p class="mb-1"><a href="{{ $view->url(q: '', page: '') }}" data-key="Backspace">What is gone from it</a></p>
@endif
@if ($view->point === null)
    <p class="empty">No set of it can be used: ask the desk.</p>
@elseif ($page->lines === [])
    <p class="empty">
        {{ $view->query === '' ? 'Nothing: all that any set has of it is there still. Look for something by its words.'
            : 'Nothing that was ever in it fits.' }}</p>
@else
    <form method="post" action="{{ $view->address() }}/pick">@csrf<input type="hidden" name="mailbox" value="{{ $view->box->name }}">
        @include('kinds.items.table', ['at' => $view, 'ticks' => 'ticked', 'lay' => true, 'boxes' => false,
            'zone' => $view->user->zone, 'chosen' => fn (): bool => false])
        <p class="mt-2 mb-0">
            <button class="btn btn-sm btn-primary" id="bring-ticked">Bring back what is ticked</button>
            @if ($view->page > 0)
                <a href="{{ $view->url(page: (string) ($view->page - 1)) }}">newer</a>
            @endif
            @if ($page->hasMore)
                <a href="{{ $view->url(page: (string) ($view->page + 1)) }}">older</a>
            @endif
        </p>
    </form>
@endif
