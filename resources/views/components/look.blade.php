@props(['look', 'zone', 'id', 'url', 'action', 'asked' => [], 'also' => ''])
{{-- What takes too long for a page: found by a job, shown with its time, looked at again by itself when it is old. --}}
<div id="{{ $id }}"
    @if ($look->isUnderWay()) hx-get="{{ $url }}" hx-select="#{{ $id }}" hx-target="this" hx-swap="outerHTML" hx-trigger="every 1s"
        @if ($also !== '') hx-select-oob="{{ $also }}" @endif @endif>
    @if ($look->isUnderWay())
        <p class="muted small" role="status">{{ ucfirst($look->title()) }}: being looked at since
            <x-moment :at="$look->askedAt()" :zone="$zone" :offset="false" />{{ $look->told() === null ? '' : ', ' . $look->told() }}.
            You can go on elsewhere; what is found is kept.</p>
    @else
        @if ($look->failure() !== null)
            <p class="attention" role="alert">{{ $look->failure() }}</p>
        @endif
        <form class="muted small mb-2" method="post" action="{{ $action }}" hx-post="{{ $action }}" hx-select="#{{ $id }}"
            hx-target="#{{ $id }}" hx-swap="outerHTML" hx-disabled-elt="find button"
            @if ($also !== '') hx-select-oob="{{ $also }}" @endif
            hx-trigger="submit{{ $look->isWanted() ? ', load' : '' }}">@csrf
            @foreach ($asked as $name => $value)
                <input type="hidden" name="{{ $name }}" value="{{ $value }}">
            @endforeach
            @if ($look->at() !== null)
                As it was at <x-moment :at="$look->at()" :zone="$zone" :offset="false" />.
            @endif
            <button class="link">{{ $look->at() === null ? 'Look at ' . $look->title() : 'Look again' }}</button>
        </form>
    @endif
    @if ($look->found() !== null)
        {{ $slot }}
    @endif
</div>
