@php($kept = $view->kept)
@if ($kept->failure !== null)
    <p class="attention">How it stands cannot be told: its kind fails. {{ $kept->failure }}</p>
@elseif ($kept->standing === null)
    <p class="muted">It was not looked at yet.</p>
@elseif ($kept->standing->concerns() === [])
    <p class="muted">There is nothing to see to.</p>
@else
    <ul class="concerns">
        @foreach ($kept->standing->concerns() as $concern)
            <li class="{{ $concern->isToday() ? 'attention' : '' }}">{{ $concern->what }} <span
                    class="muted">{{ $concern->todo }}</span></li>
        @endforeach
    </ul>
@endif
