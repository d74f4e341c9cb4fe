@use('App\Words')
@use('Carbon\CarbonImmutable')
<dl class="facts mb-2">
    <dt>From</dt>
    <dd>{{ $item->sender === '' ? 'nobody' : $item->sender }}</dd>
    <dt>To</dt>
    <dd>{{ $item->recipients === '' ? 'nobody' : $item->recipients }}</dd>
    <dt>Sent</dt>
    <dd class="mono">
        {{ $item->sentAt === null ? 'not said'
            : CarbonImmutable::createFromTimestamp($item->sentAt, $what->zone())->format('Y-m-d H:i:s P') }}</dd>
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
    @include('kinds.items.opened.wrong')
</dl>
@include($what->pickView())
@include('kinds.items.opened.life')
@php($page = $opened->letter())
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
                        {{ CarbonImmutable::createFromTimestamp($other->receivedAt, $what->zone())->format('Y-m-d H:i') }}</span>
                </li>
            @endforeach
        </ul>
    </details>
@endif
