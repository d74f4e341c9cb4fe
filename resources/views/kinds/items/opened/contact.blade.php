@php($card = $opened->contact)
@php($picture = $opened->picture())
<div class="card-of">
    @if ($picture !== null)
        <img src="data:image/png;base64,{{ base64_encode($picture) }}" alt="Its picture">
    @endif
    <dl class="facts mb-2">
        @forelse ($card->fields() as $field)
            <dt>{{ $field->field }}</dt>
            <dd>{{ $field->text }}
                @if ($field->kind !== '')
                    <span class="muted">{{ $field->kind }}</span>
                @endif
            </dd>
        @empty
            <dt>Says</dt>
            <dd class="muted">nothing but its name</dd>
        @endforelse
        @include('kinds.items.opened.wrong')
    </dl>
</div>
@include($what->pickView())
@include('kinds.items.opened.states')
@include('kinds.items.opened.life')
