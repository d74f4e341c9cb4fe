@use('App\Kinds\Items\Page\ItemLife')
@use('App\Words')
@php($life = $what->life($item))
@if ($life !== null && $life->rows !== [])
    <h4 class="h6 muted mb-1">Where it lay, from <x-moment :at="$life->from" :zone="$what->zone()" :offset="false" /> to
        <x-moment :at="$life->to" :zone="$what->zone()" :offset="false" /></h4>
    <div class="d-flex gap-2 mb-2">
        <svg class="item-life" viewBox="0 0 {{ ItemLife::WIDTH }} {{ $life->height() }}" height="{{ $life->height() }}"
            role="img" aria-label="When it lay where; the table says the same">
            @foreach ($life->rows as $row)
                <line class="ground" x1="0" x2="{{ ItemLife::WIDTH }}" y1="{{ $loop->index * ItemLife::ROW + 8 }}"
                    y2="{{ $loop->index * ItemLife::ROW + 8 }}" />
                @foreach ($row['bars'] as $bar)
                    <rect class="there" x="{{ $bar['x'] }}" y="{{ $loop->parent->index * ItemLife::ROW + 4 }}"
                        width="{{ $bar['width'] }}" height="8" />
                @endforeach
            @endforeach
            <line class="in-hand" x1="{{ $life->pointX }}" x2="{{ $life->pointX }}" y1="0" y2="{{ $life->height() }}" />
        </svg>
        <ul class="plain-list small life-names">
            @foreach ($life->rows as $row)
                <li class="mono">{{ $row['folder'] }}</li>
            @endforeach
        </ul>
    </div>
    <details class="mb-2 small">
        <summary>{{ Words::count(count($item->spans), 'span') }}</summary>
        <table class="list w-auto">
            @foreach ($opened->spans() as $span)
                <tr>
                    <td class="mono pe-3">{{ $span->mailbox }}/{{ $span->folder }}</td>
                    <td class="mono pe-3">{{ $span->flags() }}</td>
                    <td class="pe-3"><x-moment :at="$span->begins()" :zone="$what->zone()" /></td>
                    <td>
                        @if ($span->isOpen())
                            still there at the newest
                        @else
                            until <x-moment :at="$span->ends()" :zone="$what->zone()" />
                        @endif
                    </td>
                </tr>
            @endforeach
        </table>
    </details>
@endif
