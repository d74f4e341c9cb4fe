@use('App\Kinds\Items\Page\WeekPicture')
@use('App\Words')
@php($of = $opened->appointment)
@php($chosen = $of->chosen)
@php($week = $of->week())
<dl class="facts mb-2">
    <dt>When</dt>
    <dd>
        @if ($chosen === null)
            <span class="attention">it does not say</span>
        @else
            <span class="mono">{{ $of->words($chosen) }}</span>
            @if ($chosen->isException)
                <span class="attention">changed against its series</span>
            @endif
        @endif
        @if ($item->details->calendar->zone !== '')
            <span class="muted">{{ $item->details->calendar->zone }}</span>
        @endif
    </dd>
    @if ($item->details->calendar->repeats !== '')
        <dt>Repeats</dt>
        <dd>{{ $item->details->calendar->repeats }}{{ $item->details->calendar->exceptions > 0
            ? '; ' . Words::count($item->details->calendar->exceptions, 'day') . ' changed' : '' }}</dd>
    @endif
    @if ($of->said()->text('LOCATION') !== '')
        <dt>Where</dt>
        <dd>{{ $of->said()->text('LOCATION') }}</dd>
    @endif
    @if ($item->sender !== '')
        <dt>Asked by</dt>
        <dd>{{ $item->sender }}</dd>
    @endif
    @if ($of->attendees() !== [])
        <dt>Asked</dt>
        <dd>
            @foreach ($of->attendees() as $one)
                {{ $one->who->words() }} <span class="muted">{{ $one->answer }}</span>{{ $loop->last ? '' : ';' }}
            @endforeach
        </dd>
    @endif
    @include('kinds.items.opened.wrong')
</dl>
@if ($of->repeats() && $chosen !== null)
    @include($what->dayView())
@endif
@include($what->pickView())
@if ($of->repeats() && $chosen !== null && $opened->isAtPoint())
    <p class="muted small mb-2">With a day alone the series stays as it is now, and only {{ $of->words($chosen) }} comes back as it was.</p>
@endif
@if ($week !== null)
    <h4 class="h6 muted mb-1">The week of it, at the point in hand</h4>
    <svg class="week" viewBox="0 0 {{ WeekPicture::WIDTH }} {{ $week->height() }}" role="img"
        aria-label="The week of {{ $of->words($chosen) }}; the list below says the same">
        @foreach ($week->hours as $hour)
            <text class="hour" x="{{ $hour['x'] }}" y="11">{{ $hour['label'] }}</text>
            <line class="grid" x1="{{ $hour['x'] }}" x2="{{ $hour['x'] }}" y1="{{ WeekPicture::HEAD }}" y2="{{ $week->height() }}" />
        @endforeach
        @foreach ($week->days as $day)
            <line class="grid" x1="0" x2="{{ WeekPicture::WIDTH }}" y1="{{ WeekPicture::HEAD + $loop->index * WeekPicture::ROW }}"
                y2="{{ WeekPicture::HEAD + $loop->index * WeekPicture::ROW }}" />
            <text class="day {{ $day['isToday'] ? 'chosen' : '' }}" x="2"
                y="{{ WeekPicture::HEAD + $loop->index * WeekPicture::ROW + 17 }}">{{ $day['label'] }}</text>
        @endforeach
        @foreach ($week->bars as $bar)
            <svg x="{{ $bar['x'] }}" y="{{ $bar['y'] }}" width="{{ $bar['width'] }}" height="{{ $bar['height'] }}"
                class="bar {{ $bar['sort'] }}">
                <title>{{ $bar['label'] }}</title>
                <rect width="100%" height="100%" /><text x="4" y="{{ min(14, $bar['height'] - 2) }}">{{ $bar['label'] }}</text>
            </svg>
        @endforeach
    </svg>
@endif
@if ($of->repeats())
    <p class="small mb-2 days-of">
        @foreach ($of->around() as $one)
            <a class="mono text-nowrap {{ $one->isException ? 'changed' : '' }}" @if ($one === $chosen) aria-current="true" @endif
                href="{{ $what->url(item: $item->key(), day: $one->key) }}">{{ $of->words($one) }}</a>{{ $loop->last ? '' : ',' }}
        @endforeach
    </p>
@endif
@if ($of->text() !== '')
    <pre class="seen" tabindex="0" role="region" aria-label="Its text">{{ $of->text() }}</pre>
@endif
@include('kinds.items.opened.states')
@include('kinds.items.opened.life')
