@use('App\Kinds\Items\Order\ItemCount')
@use('App\Words')
@php($reading = $sheet->reading)
@php($loss = $view->inHand()->lossSeconds())
<section>
    <h2>Slip</h2>
    <dl class="facts">
        <dt>Comes back</dt>
        <dd>{{ $sheet->chosen === [] ? 'nothing yet'
            : ItemCount::of($sheet->chosen) . ', ' . Words::size($sheet->bytes()) }}
            @if (($reading->missing ?? 0) > 0)
                <span class="attention">but {{ number_format($reading->missing) }} in no archive that can be read</span>
            @endif
        </dd>
        @if ($sheet->erased !== [])
            <dt>Stays away</dt>
            <dd class="attention">{{ Words::count(count($sheet->erased), 'item') }} on the list of what had to be erased</dd>
        @endif
        <dt>Is lost</dt>
        <dd>
            @if ($loss === null)
                not known
            @elseif ($loss >= 0)
                what came in the {{ Words::duration($loss) }} before the wanted moment
            @else
                <span class="attention">nothing before it: the point is {{ Words::duration(-$loss) }} later than wanted</span>
            @endif
        </dd>
        <dt>Takes</dt>
        <dd>
            @if ($reading === null)
                not known
            @else
                about {{ Words::duration($reading->estimate->whole->likely) }} to read
            @endif
        </dd>
        <dt>Touches</dt>
        <dd>{{ $sheet->order?->replaces()
            ? 'what says something else there now: it is set aside first' : 'nothing that is there now: it only adds' }}</dd>
    </dl>
</section>
<section>
    <h2>Reading list</h2>
    @if ($reading === null)
        <p class="muted">Pick something, and the sets to read stand here.</p>
    @else
        <ol>
            @foreach (array_slice($reading->list->readings, 0, 6) as $line)
                <li>{{ Words::moment($line->set->capturedAt->in(), $frame->zone, false) }} {{ $line->set->level->words() }},
                    <span class="muted">from {{ trim($line->copy->store . ' ' . implode(' and ', $line->copy->media)) }},
                        <x-size :bytes="$line->bytes" /></span>
                </li>
            @endforeach
        </ol>
        @if (count($reading->list->readings) > 6)
            <p class="muted">and {{ count($reading->list->readings) - 6 }} more.</p>
        @endif
        @if ($reading->estimate->toFetch !== [])
            <p class="attention">To fetch from the shelf: {{ implode(', ', $reading->estimate->toFetch) }}. The run asks for it and
                waits.</p>
        @endif
        <p><a href="{{ $frame->url('how') }}#copies">Other copies, and what they cost</a></p>
    @endif
</section>
<section>
    <h2>Checked before the run</h2>
    @include('kinds.items.checks')
</section>
