@use('App\View\ChainChart')
@use('App\Words')
@php($set = $view->set)
@php($outline = $view->outline)
@php($zone = $view->zone)
<x-layout :title="$set->name" here="Estate">
    <main id="main" class="page">
        <h1><x-moment :at="$set->captured_at" :zone="$zone" /> <span class="muted fs-6 fw-normal">{{ $outline->level->words() }} of <a
                    class="text-decoration-underline" href="/workloads/{{ $set->workload_id }}"
                    data-key="Backspace">{{ $set->workload->name }}</a></span></h1>
        <p class="mono muted">{{ $set->name }}</p>
        @php($reading = $view->readingBack())
        @if ($reading !== null)
            <p class="assumed" role="status" id="reading" hx-get="/sets/{{ $set->id }}" hx-select="#main" hx-target="#main"
                hx-swap="outerHTML" hx-trigger="every 2s">Copies of this workload are being read back: {{ $reading->done }} of
                {{ $reading->all }}.
                @if ($reading->wrong > 0)
                    <span class="attention">{{ $reading->wrong }} not right.</span>
                @endif
            </p>
        @endif
        <h2>Is it good?</h2>
        @php($signs = $view->signs())
        @php($verdict = $view->verdict())
        @php($counts = $verdict !== null && $verdict->verdict !== 'none')
        <p>
            @if ($set->in_doubt)
                <strong class="attention">In doubt.</strong>
                @if ($set->doubtful > 0)
                    {{ Words::count($set->doubtful, 'file') }} of its {{ number_format($set->tree_files) }}
                    {{ $set->doubtful === 1 ? 'has' : 'have' }} a content that looks damaged before it was backed up.
                @endif
            @elseif ($counts)
                <strong>Good</strong>, by the word of a person.
            @else
                Nothing speaks against it.
            @endif
            @if ($counts)
                {{ $verdict->user->name ?? 'The command line' }} judged it {{ $verdict->verdict === 'good' ? 'good' : 'in doubt' }} on
                <x-moment :at="$verdict->at" :zone="$zone" :offset="false" />: “{{ $verdict->reason }}”
            @endif
        </p>
        @if ($signs->isNotEmpty())
            <table class="list signs">
                <tbody>
                    @foreach ($signs as $sign)
                        <tr>
                            <td class="tight">
                                @if ($sign->doubts)
                                <span class="attention">raises doubt</span>@else<span class="muted">to know</span>
                                @endif
                            </td>
                            <td>{{ $sign->words }}</td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        @php($doubtful = $view->doubtful())
        @if ($doubtful !== [])
            <details class="mt-1">
                <summary>{{ count($doubtful) < $set->doubtful ? 'The first ' . count($doubtful) . ' of them' : 'Which files' }}
                </summary>
                <ul class="mono small">
                    @foreach ($doubtful as $path => $since)
                        <li><x-path :of="(string) $path" />
                            @if ($since !== null)
                                <span class="muted">since {{ Words::moment($since->capturedAt(), $zone, false) }}</span>
                            @endif
                        </li>
                    @endforeach
                </ul>
            </details>
        @endif
        @if ($view->canTend)
            <form method="post" action="/sets/{{ $set->id }}/verdict" class="line-form">@csrf<label class="muted"
                    for="reason">You know better?</label> <input class="form-control" id="reason" name="reason" maxlength="1000"
                    placeholder="why" required autocomplete="off">
                @if ($set->in_doubt)
                <button class="btn btn-sm btn-outline-primary" name="verdict" value="good">It is good</button>@else<button
                        class="btn btn-sm btn-outline-primary" name="verdict" value="doubt">It is in doubt</button>
                    @endif @if ($counts)
                        <button class="btn btn-sm btn-outline-primary" name="verdict" value="none">Let the signs count again</button>
                    @endif
            </form>
        @endif
        <h2>Copies</h2>
        <table class="list">
            <thead>
                <tr>
                    <th>Store</th>
                    <th>Site</th>
                    <th>State</th>
                    <th class="num">Bytes</th>
                    <th>Last read back</th>
                    <th>What was found</th>
                    <th></th>
                </tr>
            </thead>
            <tbody>
                @foreach ($view->copies() as $line)
                    @php($copy = $line->copy)
                    @php($check = $line->check)
                    <tr>
                        <td class="tight">{{ $copy->store->name }}@if ($view->outline->parts !== [])
                                <span class="muted">{{ $view->outline->parts[$copy->part] ?? '' }}</span>
                                @endif @if ($copy->media() !== [])
                                    <span class="muted">{{ implode('+', $copy->media()) }}</span>
                                @endif
                        </td>
                        <td class="tight">{{ $copy->store->site }}</td>
                        <td class="tight"><span
                                class="{{ ['checked' => 'mark-checked'][$copy->state->value] ?? ($copy->state->isReadable() ? ''
                                    : 'mark-failed') }}">{{ ChainChart::stateWords($copy->state) }}</span>
                        </td>
                        <td class="num"><x-size :bytes="$copy->bytes" /></td>
                        <td class="tight">
                            @if ($check !== null)
                            <x-moment :at="$check->at" :zone="$zone" :offset="false" />@else<span
                                    class="muted">never</span>
                            @endif
                        </td>
                        <td class="{{ $line->isFine() ? 'muted' : 'attention' }}">{{ $line->found() }}</td>
                        <td class="tight num">
                            @if ($line->canMend)
                                <form method="post" action="/sets/{{ $set->id }}/mend">@csrf<button
                                        class="btn btn-sm btn-outline-primary" name="copy" value="{{ $copy->id }}">Mend
                                        it</button></form>
                            @endif
                        </td>
                    </tr>
                @endforeach
            </tbody>
        </table>
        @if ($view->canTend)
            <form method="post" action="/sets/{{ $set->id }}/read-back" class="mt-2">@csrf<button
                    class="btn btn-sm btn-outline-primary">Read its copies back</button>
                @if ($view->restsOn() !== [])
                    <button class="btn btn-sm btn-outline-primary" name="chain" value="1">Read its whole chain back</button>
                @endif
            </form>
        @endif
        <div class="row mt-2">
            <div class="col-md-7">
                <h2>What it can give back</h2>
                <table class="list">
                    <tbody>
                        @foreach ($view->gives() as $given)
                            <tr>
                                <td class="tight">{{ ucfirst($given->what) }}</td>
                                <td class="tight">{{ $given->isGiven ? 'yes' : 'no' }}</td>
                                <td class="muted">{{ $given->words }}</td>
                            </tr>
                        @endforeach
                    </tbody>
                </table>
                @if (($set->remarks ?? []) !== [])
                    <h2>Remarks</h2>
                    <ul>
                        @foreach (array_slice($set->remarks, 0, 12) as $remark)
                            <li>{{ $remark }}</li>
                        @endforeach
                    </ul>
                @endif
                @if (($set->commands ?? []) !== [])
                    <h2>Commands around it</h2>
                    <table class="list">
                        <tbody>
                            @foreach ($set->commands as $command)
                                <tr>
                                    <td class="tight">{{ $command['when'] }}</td>
                                    <td class="mono">{{ implode(' ', $command['command']) }}</td>
                                    <td class="tight">
                                        {{ $command['exit'] === 0 ? 'went well' : ($command['exit'] === null ? 'did not end'
                                            : 'ended with ' . $command['exit']) }},
                                        {{ Words::duration($command['seconds']) }}</td>
                                    <td class="mono muted">{{ $command['output'] }}</td>
                                </tr>
                            @endforeach
                        </tbody>
                    </table>
                @endif
            </div>
            <div class="col-md-5">
                <h2>Held</h2>
                @php($holds = $view->holds())
                @php($besides = $view->heldBesides())
                @if ($holds->isEmpty())
                    <p class="muted">
                        {{ $besides === null ? 'By nobody: it stays as long as the rules keep it, or a kept set needs it.'
                            : ucfirst($besides) . '.' }}
                </p>@else<table class="list">
                        <tbody>
                            @foreach ($holds as $hold)
                                <tr>
                                    <td>{{ ucfirst($hold->reason) }}</td>
                                    <td class="tight muted">
                                        {{ $hold->until === null ? 'until it is lifted'
                                            : 'until ' . $hold->until->setTimezone($zone)->format('j M Y') }}
                                    </td>
                                    <td class="num">
                                        @if ($view->canTend && $hold->request_id === null)
                                            <form method="post" action="/sets/{{ $set->id }}/holds/{{ $hold->id }}/lift">
                                                @csrf<button class="link">Lift it</button></form>
                                        @endif
                                    </td>
                                </tr>
                            @endforeach
                        </tbody>
                    </table>
                @endif
                @if ($view->canTend)
                    <form method="post" action="/sets/{{ $set->id }}/holds" class="line-form">@csrf<label class="visually-hidden"
                            for="hold-reason">Reason</label><input class="form-control" id="hold-reason" name="reason" maxlength="500"
                            placeholder="why it must stay" required autocomplete="off"> <label class="muted"
                            for="until">until</label> <input class="form-control" id="until" name="until" type="date">
                        <button class="btn btn-sm btn-outline-primary">Hold it</button>
                    </form>
                @endif
                <h2>Rests on</h2>
                @php($below = $view->restsOn())
                @if ($below === [])
                    <p class="muted">
                        {{ $outline->level->needsNoBase() ? 'Nothing.' : ucfirst($set->base_unknown_because ?? 'not known') . '.' }}
                    </p>
                @else<table class="list">
                        <tbody>
                            @foreach ($below as $base)
                                <tr>
                                    <td class="tight"><a data-row href="/sets/{{ $base->id }}"><x-moment :at="$base->capturedAt()"
                                                :zone="$zone" :offset="false" /></a></td>
                                    <td class="tight">{{ $base->level->words() }}</td>
                                    <td class="tight muted">{{ $base->isReadable() ? '' : 'cannot be read' }}</td>
                                </tr>
                            @endforeach
                        </tbody>
                    </table>
                @endif
            </div>
        </div>
    </main>
</x-layout>
