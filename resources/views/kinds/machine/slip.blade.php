@use('App\Kinds\Machines\Order\MachineWay')
@use('App\Words')
@use('Kaiseki\Core\Catalog\Shown')
@php($reading = $sheet->reading?->list()->readings ?? [])
@php($loss = $view->inHand()->lossSeconds())
@php($estimate = $sheet->reading?->estimate())
<section>
    <h2>Slip</h2>
    <dl class="facts">
        <dt>Comes back</dt>
        <dd>
            @if ($sheet->plan === null)
                nothing yet
            @elseif ($sheet->isAtHypervisor && !$sheet->way()->needsDisks())
                how it was configured
            @elseif ($sheet->isFiles())
                {{ Words::count(count($sheet->said->paths), 'thing') }} picked, with all that is in
                {{ count($sheet->said->paths) === 1 ? 'it' : 'them' }}
            @else
                {{ Words::count(count($sheet->plan->disks), 'disk') }} of {{ Words::size($sheet->sizes()) }},
                {{ Words::size($sheet->bytes()) }} in use
            @endif
        </dd>
        <dt>Is lost</dt>
        <dd>
            @if ($loss === null)
                not known
            @elseif ($loss >= 0)
                {{ Words::duration($loss) }} before the wanted moment
            @else
                <span class="attention">nothing before it: the point is {{ Words::duration(-$loss) }} later than
                    wanted</span>
            @endif
        </dd>
        <dt>Reading takes</dt>
        <dd>
            @if ($estimate === null)
                not known
            @elseif ($sheet->isAtHypervisor && $sheet->way() === MachineWay::StandUp)
                place while it runs; all of it about {{ Words::duration($estimate->whole->likely) }}
            @else
                about {{ Words::duration($estimate->whole->likely) }}
                ({{ Words::duration($estimate->whole->least) }} to {{ Words::duration($estimate->whole->most) }})
            @endif
        </dd>
        <dt>Touches</dt>
        <dd>{{ match (true) {
            $sheet->isAtHypervisor => $sheet->mayReplace() ? 'the machine that stands there' : 'nothing that is there now',
            $sheet->into() !== null => 'that machine, ' . $sheet->conflict()->words(),
            default => $sheet->conflict()?->words() ?? 'nothing that is there now',
        } }}</dd>
    </dl>
</section>
<section>
    <h2>Reading list</h2>
    @if ($reading === [])
        <p class="muted">When there is a point, the images to read stand here.</p>
    @else
        <ol>
            @foreach (array_slice($reading, 0, 6) as $line)
                <li>{{ Words::moment($line->set->capturedAt->in(), $frame->zone, false) }}
                    {{ $line->set->level->words() . $view->diskOf($line) }}, 
                    <span class="muted">from {{ trim($line->copy->store . ' ' . implode(' and ', $line->copy->media)) }},
                        <x-size :bytes="$line->bytes" /></span>
                </li>
            @endforeach
        </ol>
        @if (count($reading) > 6)
            <p class="muted">and {{ count($reading) - 6 }} more.</p>
        @endif
        @if ($estimate->toFetch !== [])
            <p class="attention">To fetch from the shelf: {{ implode(', ', $estimate->toFetch) }}.
                The run asks for them and waits.</p>
        @endif
        <p><a href="{{ $frame->url('how') }}#copies">Other copies, and what they cost</a></p>
    @endif
</section>
<section>
    <h2>Checked before the run</h2>
    <dl class="facts">
        <dt>Target</dt>
        <dd class="mono">{{ match (true) {
            $sheet->isAtHypervisor && $sheet->placement() === null => 'not settled',
            $sheet->isAtHypervisor || $sheet->into() !== null => $view->whereInWords(),
            default => $view->folder() === null ? 'not settled' : Shown::name($view->folder()),
        } }}</dd>
        @if ($sheet->said->on !== '' && $sheet->files === null && $sheet->hypervisor()?->seen_at !== null)
            <dt>Looked at</dt>
            <dd><x-moment :at="$sheet->hypervisor()->seen_at" :zone="$frame->zone" />; again when it is run</dd>
        @elseif ($view->freeBytes() !== null)
            <dt>Room</dt>
            <dd @if ($sheet->files === null && $view->freeBytes() < $sheet->bytes()) class="attention" @endif>
                {{ Words::size($view->freeBytes()) }} free{{ $sheet->files !== null ? ''
                    : ', up to ' . Words::size($sheet->bytes()) . ' needed' }}</dd>
        @endif
        <dt>Approval</dt>
        <dd>{{ $sheet->needsApproval() ? 'needed: things may be replaced' : 'not needed' }}</dd>
    </dl>
</section>
