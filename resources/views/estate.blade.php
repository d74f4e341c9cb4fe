@use('App\Words')
<x-layout title="Estate" here="Estate">
    <main id="main" class="page">
        <h1>Estate</h1>
        @if ($view->lines !== [])
            <x-looked :at="$view->lookedAt()" :busy="$view->isBeingReckoned()" :zone="$zone" url="/estate" />
        @endif
        @php($unprotected = $view->unprotected())
        @if ($view->lines === [] && $unprotected === [])
            <p class="empty">Nothing is protected or adopted yet. <span class="mono">bin/kaiseki adopt DIR --as=NAME
                    --kind=files</span> registers archives you already have; <span class="mono">bin/kaiseki protect NAME --source=DIR
                    --level=full</span> makes a set of a folder.</p>
        @else
            <table class="list estate">
                <thead>
                    <tr>
                        <th>Workload</th>
                        <th>Newest usable</th>
                        <th class="num">Age</th>
                        <th class="num">Promised</th>
                        <th class="num">Whole restore</th>
                        <th class="num">Promised</th>
                        <th>Last proven</th>
                        <th class="num">Open</th>
                        <th>Two weeks</th>
                        <th>To see to</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($view->lines as $line)
                        @php($kept = $line->kept)
                        @php($standing = $kept->standing)
                        @if ($standing === null)
                            <tr>
                                <td class="tight"><a data-row
                                        href="/workloads/{{ $line->workload->id }}">{{ $line->workload->name }}</a>
                                    <div class="muted small">{{ $line->workload->kind }} at {{ $line->workload->site }}</div>
                                </td>
                                @if ($kept->failure === null)
                                    <td colspan="9" class="muted">It was not looked at yet.</td>
                                @else
                                    <td colspan="9" class="attention">How it stands cannot be told: its kind fails.
                                        {{ $kept->failure }}</td>
                                @endif
                            </tr>
                            @continue
                        @endif
                        @php($concerns = $line->concerns)
                        <tr>
                            <td class="tight"><a data-row
                                    href="/workloads/{{ $line->workload->id }}">{{ $line->workload->name }}</a>
                                <div class="muted small">{{ $line->workload->kind }} at {{ $line->workload->site }},
                                    {{ Words::count($standing->points, 'point') }}</div>
                            </td>
                            <td class="tight">
                                @if ($kept->newestAt !== null)
                                    <x-moment :at="$kept->newestAt" :zone="$zone" :offset="false" />
                                @else
                                    <span class="attention">none</span>
                                @endif
                            </td>
                            <td class="num @if ($standing->missesRpo()) attention @endif">
                                {{ $standing->ageSeconds === null ? '' : Words::duration($standing->ageSeconds) }}</td>
                            <td class="num muted">
                                {{ $standing->rpoSeconds === null ? '' : Words::duration($standing->rpoSeconds) }}</td>
                            <td class="num @if ($standing->missesRto()) attention @endif">
                                {{ $standing->restoreSeconds === null ? '' : Words::duration($standing->restoreSeconds) }}
                                @if ($standing->lastRestoreSeconds !== null)
                                    <div class="muted small">last took {{ Words::duration($standing->lastRestoreSeconds) }}</div>
                                @endif
                            </td>
                            <td class="num muted">
                                {{ $standing->rtoSeconds === null ? '' : Words::duration($standing->rtoSeconds) }}</td>
                            <td class="tight">
                                @if ($line->proven !== null)
                                <x-moment :at="$line->proven" :zone="$zone" :offset="false" />@else<span
                                        class="muted">never</span>
                                @endif
                            </td>
                            <td class="num">{{ $line->open === 0 ? '' : $line->open }}</td>
                            <td class="tight"><span class="days" role="img"
                                    aria-label="{{ $line->daysInWords() }}">
                                    @foreach ($line->days as $met)
                                        <i class="{{ $met ? '' : 'missed' }}"></i>
                                    @endforeach
                                </span>
                            </td>
                            <td class="concerns">
                                @if ($concerns === [])
                                    <span class="muted">nothing</span>
                                    @endif @foreach (array_slice($concerns, 0, 2) as $concern)
                                        <div class="{{ $concern->weight >= 60 ? 'attention' : '' }}">{{ $concern->what }} <span
                                                class="muted">{{ $concern->todo }}</span></div>
                                        @endforeach @if (count($concerns) > 2)
                                            <a class="text-decoration-underline small"
                                                href="/workloads/{{ $line->workload->id }}/care">and {{ count($concerns) - 2 }}
                                                more</a>
                                        @endif
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            @if ($unprotected !== [])
                <h2 id="unprotected">Not protected</h2>
                <form method="post" action="/sources">@csrf
                    <table class="list w-auto">
                        <thead>
                            <tr>
                                @if ($view->canTakeUp())
                                    <th></th>
                                @endif
                                <th class="pe-4">
                                    Host</th>
                                <th class="pe-4">Group</th>
                                <th>What becomes of it</th>
                            </tr>
                        </thead>
                        <tbody>
                            @foreach ($unprotected as $source)
                                <tr>
                                    @if ($view->canTakeUp())
                                        <td class="pe-2"><input type="checkbox" name="sources[]" value="{{ $source->name }}"
                                                aria-label="Take up {{ $source->name }}"></td>
                                    @endif
                                    <td class="tight pe-4">
                                        {{ $source->name }}</td>
                                    <td class="tight pe-4">{{ $source->group }}</td>
                                    <td>
                                        @if ($source->hasRule)
                                        <span class="muted">the rule of its group takes it up within a minute</span>@else<span
                                                class="attention">its group has no rule, so nobody protects it</span>
                                        @endif
                                    </td>
                                </tr>
                            @endforeach
                        </tbody>
                    </table>
                    @if ($view->canTakeUp())
                        <p class="mt-2"><button class="btn btn-sm btn-outline-primary">Take up those picked</button> <span
                                class="muted">A group gets a rule with <span class="mono">bin/kaiseki schedule
                                    --group=…</span></span></p>
                    @endif
                </form>
            @endif
        @endif
        @foreach ($view->partsOfKinds() as $part)
            @include($part, ['user' => $view->viewer])
        @endforeach
        <p class="muted mt-4"><a class="text-decoration-underline" href="/agents">Machines that send their sets themselves</a></p>
        <p class="muted"><a class="text-decoration-underline" href="/kinds">Kinds of workloads, and what each needs on this
                machine</a></p>
    </main>
</x-layout>
