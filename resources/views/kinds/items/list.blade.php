@php($page = $what->items())
@if ($page->lines === [])
    <p class="empty">
        @if ($what->problem !== null)
            See above.
        @elseif ($what->isSearch())
            Nothing {{ $what->everywhen ? 'at any point' : 'at this point' }} fits.
            @if (!$what->everywhen)
                <a class="text-decoration-underline" href="{{ $what->url(ever: '1', page: '') }}">Look at all points</a>
            @endif
        @else
            Look for something, or choose a folder of a mailbox, a calendar or contacts.
            @if ($what->lost() !== '')
                <span class="d-block">Asked for was “{{ $what->lost() }}”: <a class="text-decoration-underline" id="look-for-lost"
                        href="{{ $what->url(q: $what->lost(), ever: '1', page: '', mailbox: '', folder: '') }}">look for it at all
                        points</a>.</span>
            @endif
        @endif
    </p>
@else
    <form method="post" action="{{ $view->settleUrl() }}">@csrf<input type="hidden" name="settle" value="pick"><input type="hidden"
            name="back" value="{{ parse_url($what->url(), PHP_URL_QUERY) }}"><input type="hidden" name="q"
            value="{{ $what->query }}"><input type="hidden" name="ever" value="{{ $what->everywhen ? 1 : 0 }}"><input type="hidden"
            name="mailbox" value="{{ $what->mailbox }}"><input type="hidden"
            name="folder" value="{{ $what->folder }}">
        @include('kinds.items.table', ['at' => $what, 'ticks' => 'items', 'lay' => $what->isSearch(), 'boxes' => true,
            'zone' => $frame->zone, 'chosen' => $what->isPicked(...)])
        <p class="mt-2 mb-0">
            <button class="btn btn-sm btn-primary" id="pick-ticked" name="pick" value="ticked">Pick what is ticked</button>
            @if ($what->isSearch())
                <button class="btn btn-sm btn-outline-primary" id="pick-found" name="pick" value="found">Pick all that
                    fits{{ $what->everywhen ? ', at any point' : '' }}</button>
            @else
                <button class="btn btn-sm btn-outline-primary" id="pick-folder" name="pick" value="folder">Pick all of it, and all
                    below it</button>
            @endif
            @if ($what->page > 0)
                <a href="{{ $what->url(page: (string) ($what->page - 1)) }}">newer</a>
            @endif
            @if ($page->hasMore)
                <a href="{{ $what->url(page: (string) ($what->page + 1)) }}">older</a>
            @endif
        </p>
    </form>
@endif
