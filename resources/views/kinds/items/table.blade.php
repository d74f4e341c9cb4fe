{{-- Items in rows, to be ticked and opened: $page, $at (whose addresses), $ticks (name of the boxes), $lay (whether where each lay is
told), $boxes (whether with its mailbox), $zone, $chosen (item => whether it is picked). --}}
<div class="scroll items-tall" tabindex="0" role="region" aria-label="Items">
    <table class="list items {{ $lay ? 'found' : '' }}">
        <thead>
            <tr>
                <th class="tick"><span class="visually-hidden">Tick</span></th>
                @foreach ($page->columns() as $column)
                    <th>{{ $column }}</th>
                @endforeach
                @if ($lay)
                    <th>Lay in</th>
                @endif
                <th class="num">Size</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($page->lines as $line)
                @php($item = $line->item)
                <tr class="{{ $chosen($item) ? 'chosen' : '' }}">
                    <td class="tick"><input type="checkbox" data-tick name="{{ $ticks }}[]" value="{{ $item->key() }}"
                            aria-label="{{ $item->title() }}"></td>
                    <td class="tight mono">{{ $line->when }}</td>
                    <td class="cut" title="{{ $line->who }}">{{ $line->who }}</td>
                    <td class="cut"><a data-row class="text-reset {{ $line->isUnread ? 'unread' : '' }}"
                            href="{{ $at->url(item: $item->key()) }}">{{ $item->title() }}</a>
                        @if ($line->note !== '')
                            <span class="muted text-nowrap">{{ $line->note }}</span>
                        @endif
                    </td>
                    @if ($lay)
                        <td class="cut" title="{{ $boxes ? $line->span?->mailbox : '' }} {{ $line->span?->folder }}">
                            @if ($item->isGone())
                                <span class="attention text-nowrap">{{ $line->isChanged ? 'changed' : 'gone' }} since
                                    <x-moment :at="$item->goneSince()" :zone="$zone" :offset="false" /></span>,
                            @elseif ($item->isLeftOut())
                                <span class="muted text-nowrap">left out since
                                    <x-moment :at="$item->goneSince()" :zone="$zone" :offset="false" /></span>,
                            @endif
                            {{ $line->span?->folder }}
                            @if ($boxes)
                                <span class="muted">{{ $line->span?->mailbox }}</span>
                            @endif
                        </td>
                    @endif
                    <td class="num"><x-size :bytes="$item->size" /></td>
                </tr>
            @endforeach
        </tbody>
    </table>
</div>
