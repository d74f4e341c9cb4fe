@use('App\Words')
@use('Kaiseki\Core\Catalog\Shown')
@use('Kaiseki\Core\Files\Deed')
@php($reading = $sheet->reading)
<section>
    <h2>Slip</h2>
    <dl class="facts">
        <dt>Comes back</dt>
        <dd>
            @if ($reading === null)
                nothing yet
            @elseif ($sheet->said->permissionsOnly)
                the permissions of {{ Words::count($reading->entries, 'thing') }}
            @else
                {{ Words::count($reading->files, 'file') }}, {{ Words::size($reading->bytes) }}{{ $reading->missing > 0 ? ',' : '' }}
                @if ($reading->missing > 0)
                    <span class="attention">but {{ number_format($reading->missing) }} of them nowhere readable</span>
                @endif
            @endif
        </dd>
        <dt>Is lost</dt>
        <dd>@php($loss = $sheet->lossSeconds())@if ($loss === null)
                not known
            @elseif ($loss >= 0)
            {{ Words::duration($loss) }} before the wanted moment @else<span class="attention">nothing before it: the point is
                    {{ Words::duration(-$loss) }} later than wanted</span>
            @endif
        </dd>
        <dt>Takes</dt>
        <dd>
            @if ($reading === null)not known
            @else
                about {{ Words::duration($reading->estimate->whole->likely) }}
                ({{ Words::duration($reading->estimate->whole->least) }} to
                {{ Words::duration($reading->estimate->whole->most) }})@php($parts = $view->estimateParts())@if ($parts !== '')
                    <span class="d-block muted">{{ $parts }}</span>
                @endif
            @endif
        </dd>
        <dt>Touches</dt>
        @php($inUse = $sheet->destination->isInUse())
        @php($preview = $view->seenAlready())
        <dd>
            @if (!$inUse)
                nothing that is there now
            @elseif ($preview === null)
                {{ $reading === null ? 'not known' : 'see Preview' }}
            @elseif ($preview->present === 0)
                nothing that is there now
            @else
                <span class="attention">
                    @foreach (['replaced', 'present-renamed', 'beside', 'permissions', 'kept'] as $deed)
                        @if ($preview->counts[$deed]->entries > 0)
                            {{ number_format($preview->counts[$deed]->entries) }}
                            {{ Deed::from($deed)->words() }}.
                        @endif
                    @endforeach
                    @if ($preview->newer > 0)
                        {{ number_format($preview->newer) }} newer there than what comes back.
                    @endif
                </span>
            @endif
        </dd>
    </dl>
</section>
<section>
    <h2>Reading list</h2>
    @if ($reading === null)
        <p class="muted">Pick something, and the sets to read stand here.</p>
    @elseif ($reading->list->readings === [])
        <p class="muted">No archive needs to be read.</p>
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
            <p class="attention">To fetch from the shelf:
                {{ implode(', ', $reading->estimate->labelsToFetch()) }}.
                The run asks for {{ count($reading->estimate->toFetch) === 1 ? 'it' : 'them' }} and waits.</p>
        @endif
        @if (!$reading->list->exact)
            <p class="muted">A good plan; with so many media not proven the cheapest.</p>
        @endif
        @php($idle = $view->idleSets())
        @if ($idle > 0)
            <p class="muted">{{ $idle === 1 ? 'The other set of this chain holds' : "The other $idle sets of this chain hold" }}
                nothing of it.</p>
        @endif
        <p><a href="{{ $frame->url('how') }}#copies">Other copies, and what they cost</a>
            @if (!$request->copyRule()->isNone())
                <span class="attention">(settled by hand)</span>
            @endif
        </p>
    @endif
</section>
@php($missing = $sheet->missing())
@if ($missing !== [])
    <section>
        <h2 class="attention">Not given back by this point</h2>
        <ul class="plain-list">
            @foreach (array_slice($missing, 0, 6) as $path)
                <li><x-path :of="$path" /></li>
            @endforeach
        </ul>
        @if (count($missing) > 6)
            <details>
                <summary>{{ count($missing) === 100 ? 'the first hundred' : 'all ' . count($missing) }}</summary>
                <ul class="plain-list">
                    @foreach (array_slice($missing, 6) as $path)
                        <li><x-path :of="$path" /></li>
                    @endforeach
                </ul>
            </details>
        @endif
    </section>
@endif
<section>
    <h2>Checked before the run</h2>
    <dl class="facts">
        <dt>Target</dt>
        <dd class="mono">
            {{ $sheet->destination->isDownload() ? 'your browser' : ($sheet->target === null ? 'not settled'
                : ($sheet->destination->host === null ? '' : $sheet->destination->host->name . ':') . Shown::name($sheet->target)) }}
        </dd>
        @if ($preview !== null && !$sheet->said->permissionsOnly)
            <dt>Room</dt>
            <dd @if (!$preview->fits()) class="attention" @endif>{{ Words::size($preview->bytesFree) }} free,
                {{ Words::size($preview->bytesNeeded) }} needed</dd>
        @elseif ($sheet->target !== null && $sheet->destination->host?->kind !== 'sftp' && !$sheet->said->permissionsOnly)
            <dt>Room</dt>
            <dd>{{ Words::size($view->freeBytes()) }}
                free{{ $reading === null ? '' : ', ' . Words::size($reading->bytes) . ' needed' }}</dd>
        @endif
        @if ($preview !== null && $preview->open !== [])
            <dt>Open there</dt>
            <dd class="attention">
                @foreach ($preview->open as $line)
                    <x-path :of="$line->path" /> in {{ $line->openIn }}
                @endforeach
            </dd>
        @endif
        <dt>Approval</dt>
        <dd>
            @if ($request->workload?->needs_approval !== true)
                not needed for {{ $request->workload->name ?? 'it' }}
            @elseif (!$inUse || ($preview !== null && $preview->changed() === 0))
                not needed: nothing there changes
            @elseif ($frame->openApproval() !== null)
            <span class="attention">asked for, not answered</span>@else<span class="attention">needed: things there change</span>
            @endif
        </dd>
    </dl>
</section>
@php($life = $view->lifeInWords())
@if ($life !== '')
    <section>
        <h2>Versions of this path</h2>
        <p class="muted mt-0">{{ $life }}
        </p>
    </section>
@endif
