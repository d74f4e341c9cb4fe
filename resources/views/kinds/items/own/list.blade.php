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
        <div class="scroll items-tall" tabindex="0" role="region" aria-label="Items">
            <table class="list items found">
                <thead>
                    <tr>
                        <th class="tick"><span class="visually-hidden">Tick</span></th>
                        @foreach ($page->columns() as $column)
                            <th>{{ $column }}</th>
                        @endforeach
                        <th>Lay in</th>
                        <th class="num">Size</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($page->lines as $line)
                        @php($item = $line->item)
                        <tr>
                            <td class="tick"><input type="checkbox" data-tick name="ticked[]" value="{{ $item->key() }}"
                                    aria-label="{{ $item->title() }}"></td>
                            <td class="tight mono">{{ $line->when }}</td>
                            <td class="cut" title="{{ $line->who }}">{{ $line->who }}</td>
                            <td class="cut"><a data-row class="text-reset {{ $line->isUnread ? 'unread' : '' }}"
                                    href="{{ $view->url(item: $item->key()) }}">{{ $item->title() }}</a>
                                @if ($line->note !== '')
                                    <span class="muted text-nowrap">{{ $line->note }}</span>
                                @endif
                            </td>
                            <td class="cut">
                                @if ($item->isGone())
                                    <span class="attention text-nowrap">{{ $line->isChanged ? 'changed' : 'gone' }} since
                                        <x-moment :at="$item->goneSince()" :zone="$view->user->zone" :offset="false" /></span>,
                                @endif
                                {{ $line->span?->folder }}
                            </td>
                            <td class="num"><x-size :bytes="$item->size" /></td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        </div>
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
