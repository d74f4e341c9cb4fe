@use('App\Kinds\Items\Page\ItemsWhatView')
@use('App\Words')
@use('Carbon\CarbonImmutable')
@php($rows = $what->rows())
@php($more = count($rows) > ItemsWhatView::PAGE)
@php($rows = array_slice($rows, 0, ItemsWhatView::PAGE))
@if ($rows === [])
    <p class="empty">
        @if ($what->problem !== null)
            See above.
        @elseif ($what->isSearch())
            Nothing {{ $what->everywhen ? 'at any point' : 'at this point' }} fits.
            @if (!$what->everywhen)
                <a class="text-decoration-underline" href="{{ $what->url(ever: '1', page: '') }}">Look at all points</a>
            @endif
        @else
            Look for a message, or choose a folder of a mailbox.
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
            value="{{ $what->query }}"><input type="hidden" name="mailbox" value="{{ $what->mailbox }}"><input type="hidden"
            name="folder" value="{{ $what->folder }}">
        <div class="scroll items-tall" tabindex="0" role="region" aria-label="Messages">
            <table class="list items {{ $what->isSearch() ? 'found' : '' }}">
                <thead>
                    <tr>
                        <th class="tick"><span class="visually-hidden">Tick</span></th>
                        <th>Received</th>
                        <th>From</th>
                        <th>Subject</th>
                        @if ($what->isSearch())
                            <th>Lay in</th>
                        @endif
                        <th class="num">Size</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($rows as [$item, $span])
                        <tr class="@if ($what->isPicked($item)) chosen @endif">
                            <td class="tick"><input type="checkbox" data-tick name="items[]" value="{{ $item->key() }}"
                                    aria-label="{{ $item->subject === '' ? 'without a subject' : $item->subject }}"></td>
                            <td class="tight mono">
                                {{ CarbonImmutable::createFromTimestamp($span->receivedAt ?? $item->receivedAt,
                                    $frame->zone)->format('Y-m-d H:i') }}
                            </td>
                            <td class="cut" title="{{ $item->sender }}">{{ $item->sender }}</td>
                            <td class="cut"><a data-row class="text-reset {{ str_contains($span?->flags() ?? '', 'S') ? '' : 'unread' }}"
                                    href="{{ $what->url(item: $item->key()) }}">{{ $item->subject === '' ? 'without a subject'
                                        : $item->subject }}</a>
                                @if ($item->attachments > 0)
                                    <span class="muted text-nowrap">+ {{ $item->attachments }}</span>
                                @endif
                            </td>
                            @if ($what->isSearch())
                                <td class="cut" title="{{ $span?->mailbox }} {{ $span?->folder }}">
                                    @if ($item->isGone())
                                        <span class="attention text-nowrap">gone since
                                            <x-moment :at="$item->goneSince()" :zone="$frame->zone" :offset="false" /></span>,
                                    @endif
                                    {{ $span?->folder }} <span class="muted">{{ $span?->mailbox }}</span>
                                </td>
                            @endif
                            <td class="num"><x-size :bytes="$item->size" /></td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        </div>
        <p class="mt-2 mb-0">
            <button class="btn btn-sm btn-primary" id="pick-ticked" name="pick" value="ticked">Pick what is ticked</button>
            @if ($what->isSearch() && !$what->everywhen)
                <button class="btn btn-sm btn-outline-primary" id="pick-found" name="pick" value="found">Pick all that fits</button>
            @elseif (!$what->isSearch())
                <button class="btn btn-sm btn-outline-primary" id="pick-folder" name="pick" value="folder">Pick the folder and all
                    below it</button>
            @endif
            @if ($what->page > 0)
                <a href="{{ $what->url(page: (string) ($what->page - 1)) }}">newer</a>
            @endif
            @if ($more)
                <a href="{{ $what->url(page: (string) ($what->page + 1)) }}">older</a>
            @endif
        </p>
    </form>
@endif
