@php($states = $opened->states)
@if ($states->other !== null)
    <h4 class="h6 mb-1">{{ $states->isOtherNewer ? 'What the newest state says otherwise' : 'What changed with it' }}</h4>
    <table class="list changes mb-2">
        <thead>
            <tr>
                <th>Field</th>
                <th>{{ $states->isOtherNewer ? 'In this one' : 'Before' }}</th>
                <th>{{ $states->isOtherNewer ? 'In the newest' : 'In this one' }}</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($states->byDay($what->home()) as $day => $changes)
                @if ($day !== '')
                    <tr>
                        <th colspan="3" class="pt-2">Only of the day that the series has on {{ $day }}</th>
                    </tr>
                @endif
                @foreach (array_slice($changes, 0, 40) as $change)
                    <tr>
                        <td class="pe-3">{{ $change->field }}</td>
                        <td class="was">{!! nl2br(e(implode("\n", $change->was))) !!}</td>
                        <td class="is">{!! nl2br(e(implode("\n", $change->is))) !!}</td>
                    </tr>
                @endforeach
            @endforeach
        </tbody>
    </table>
    <p class="small">All its states:
        @foreach ($states->all as $state)
            <span class="text-nowrap"><a @if ($state->id === $item->id) aria-current="true" @endif
                    href="{{ $what->url(item: $state->key(), day: $what->day) }}">since <x-moment :at="$state->firstAt()"
                    :zone="$what->zone()" :offset="false" /></a>{{ $state->isGone() ? '' : ', the newest'
                    }}</span>{{ $loop->last ? '' : ';' }}
        @endforeach
    </p>
@endif
