@php($item = $opened->item)
@php($message = $opened->message)
@php($own = $what->itemUrl($item))
<article class="letter" aria-label="The {{ $item->sort->noun() }}">
    <p class="mb-2 d-flex gap-3 flex-wrap"><a href="{{ $what->url(item: '', day: '') }}" data-key="Backspace">Back to the list</a>
        @if ($opened->bytes !== null)
            <a hx-boost="false" href="{{ $own }}/source">Its source (.{{ $item->sort->ending() }})</a>
        @endif
    </p>
    <h3 class="h6 mb-2">{{ $item->title() }}</h3>
    @if ($opened->bytes === null)
        <p class="attention">It is in no archive that can be read.</p>
        @include('kinds.items.opened.life')
    @else
        @include("kinds.items.opened.{$opened->view()}")
    @endif
</article>
