@use('App\Kinds\Items\Page\ItemLife')
@use('App\Kinds\Items\Page\LetterPage')
@use('App\Words')
@use('Carbon\CarbonImmutable')
@php($item = $opened->item)
@php($message = $opened->message)
@php($own = "/requests/{$request->id}/items/{$item->key()}")
<article class="letter" aria-label="The message">
    <p class="mb-2 d-flex gap-3 flex-wrap"><a href="{{ $what->url(item: '') }}" data-key="Backspace">Back to the list</a>
        @if ($message !== null)
            <a hx-boost="false" href="{{ $own }}/source">Its source (.eml)</a>
        @endif
    </p>
    <h3 class="h6 mb-2">{{ $item->subject === '' ? 'Without a subject' : $item->subject }}</h3>
    <dl class="facts mb-2">
        <dt>From</dt>
        <dd>{{ $item->sender === '' ? 'nobody' : $item->sender }}</dd>
        <dt>To</dt>
        <dd>{{ $item->recipients === '' ? 'nobody' : $item->recipients }}</dd>
        <dt>Sent</dt>
        <dd class="mono">
            {{ $item->sentAt === null ? 'not said'
                : CarbonImmutable::createFromTimestamp($item->sentAt, $frame->zone)->format('Y-m-d H:i:s P') }}</dd>
        @if ($item->details->attached !== [])
            <dt>Attached</dt>
            <dd>
                @foreach ($item->details->attached as $number => $thing)
                    <a hx-boost="false"
                        href="{{ $own }}/part/{{ $number }}">{{ $thing->name === '' ? $thing->type : $thing->name }}</a>
                    <span class="muted">{{ Words::size($thing->size) }}</span>{{ $loop->last ? '' : ',' }}
                @endforeach
            </dd>
        @endif
        @foreach ($item->details->wrong as $wrong)
            <dt class="attention">Odd</dt>
            <dd class="attention">{{ $wrong }}</dd>
        @endforeach
    </dl>
    <form method="post" action="{{ $view->settleUrl() }}" class="mb-2">@csrf<input type="hidden" name="settle" value="pick"><input
            type="hidden" name="item" value="{{ $item->key() }}"><input type="hidden" name="items[]" value="{{ $item->key() }}"><input
            type="hidden" name="back" value="{{ parse_url($what->url(item: $item->key()), PHP_URL_QUERY) }}">
        @if ($what->isPicked($item))
            <span class="picked">It is picked.</span> <button class="link" name="pick" value="drop">Take it out</button>
        @elseif ($opened->isAtPoint())
            <button class="btn btn-sm btn-primary" id="pick-only" name="pick" value="only" data-focus>Pick this message</button>
            @if ($opened->thread !== [])
                <button class="btn btn-sm btn-outline-primary" id="pick-thread" name="pick" value="thread">and its thread</button>
            @endif
            @if ($sheet->selection->items !== [])
                <button class="btn btn-sm btn-outline-primary" name="pick" value="ticked">and those picked before</button>
            @endif
        @else
            <span class="attention">It is not at the point in hand: choose one under When at which it was there.</span>
        @endif
    </form>
    @php($life = $what->life($item))
    @if ($life !== null && $life->rows !== [])
        <h4 class="h6 muted mb-1">Where it lay, from <x-moment :at="$life->from" :zone="$frame->zone" :offset="false" /> to
            <x-moment :at="$life->to" :zone="$frame->zone" :offset="false" /></h4>
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
                        <td class="pe-3"><x-moment :at="$span->begins()" :zone="$frame->zone" /></td>
                        <td>
                            @if ($span->isOpen())
                                still there at the newest
                            @else
                                until <x-moment :at="$span->ends()" :zone="$frame->zone" />
                            @endif
                        </td>
                    </tr>
                @endforeach
            </table>
        </details>
    @endif
    @if ($message === null)
        <p class="attention">It is in no archive that can be read.</p>
    @else
        @php($page = $opened->hasHtml() ? LetterPage::of($message) : null)
        @if ($page !== null)
            @if ($page->remote > 0)
                <p class="muted small mb-1">{{ Words::count($page->remote, 'picture') }} from elsewhere
                    {{ $page->remote === 1 ? 'is' : 'are' }} not shown: whoever sent it would learn that it was opened.</p>
            @endif
            <iframe class="letter-page" sandbox src="{{ $own }}/letter" title="The message as it looked" loading="lazy"></iframe>
            <details class="small">
                <summary>Its text</summary>
                <pre class="seen" tabindex="0" role="region" aria-label="Its text">{{ $opened->text() }}</pre>
            </details>
        @else
            <pre class="seen" tabindex="0" role="region" aria-label="Its text">{{ $opened->text() }}</pre>
        @endif
        <details class="small">
            <summary>Its headers</summary>
            <pre class="seen" tabindex="0" role="region" aria-label="Its headers">{{ $message->headerText() }}</pre>
        </details>
        @if ($opened->thread !== [])
            <details class="small">
                <summary>{{ Words::count(count($opened->thread), 'other message', 'other messages') }} of its thread</summary>
                <ul class="plain-list">
                    @foreach ($opened->thread as $other)
                        <li><a href="{{ $what->url(item: $other->key()) }}">{{ $other->subject === '' ? 'without a subject'
                            : $other->subject }}</a>
                            <span class="muted">{{ $other->sender }},
                                {{ CarbonImmutable::createFromTimestamp($other->receivedAt, $frame->zone)->format('Y-m-d H:i') }}</span>
                        </li>
                    @endforeach
                </ul>
            </details>
        @endif
    @endif
</article>
