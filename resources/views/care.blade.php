@use('App\View\CareView')
@use('App\View\EstateView')
@use('App\Words')
@use('Carbon\CarbonImmutable')
@use('Kaiseki\Core\Chain\Level')
@php($workload = $view->workload)
@php($zone = $view->zone)
@php($standing = $view->standing->standing)
<x-layout :title="'Care of ' . $workload->name" here="Estate">
    <main id="main" class="page care">
        <h1>Care of {{ $workload->name }} <span class="muted fs-6 fw-normal"><a class="text-decoration-underline"
                    href="/workloads/{{ $workload->id }}" data-key="Backspace">its history</a></span></h1>
        @php($concerns = $standing->concerns())
        @if ($concerns === [])
        <p class="muted">There is nothing to see to.</p>@else<ul class="concerns">
                @foreach ($concerns as $concern)
                    <li class="{{ $concern->weight >= 60 ? 'attention' : '' }}">{{ $concern->what }} <span
                            class="muted">{{ $concern->todo }}</span></li>
                @endforeach
            </ul>
        @endif
        <div class="row">
            <div class="col-lg-6">
                <h2>Making sets</h2>
                @php($schedule = $view->schedule())
                <p>
                    @if (!$view->source()->isKnown())
                        <span class="muted">Its original is not known here: sets come by adopting.</span>
                    @elseif ($schedule === null)
                        <span class="attention">Nothing makes sets of it by itself.</span>
                    @elseif (!$schedule->on)
                        <span class="attention">Its schedule is off.</span>
                    @else
                        Next:
                        @php($next = $schedule->next())
                        @if ($next === null)
                            never
                        @else
                            <x-moment :at="$next" :zone="$zone" />
                        @endif
                        to {{ implode(', then copied to ', [$schedule->store->name, ...$schedule->copy_to ?? []]) }}.
                    @endif
                </p>
                @if ($view->canTend && $view->source()->isKnown())
                    <form method="post" action="/workloads/{{ $workload->id }}/sets" class="line-form">@csrf<label
                            class="visually-hidden" for="level">Level</label><select class="form-select w-auto" id="level"
                            name="level">
                            @foreach ($view->source()->levels() as $value => $words)
                                <option value="{{ $value }}">{{ $words }}</option>
                            @endforeach
                        </select>
                        <label class="muted" for="make-store">to</label> <select class="form-select w-auto" id="make-store"
                            name="store">
                            @foreach ($view->folders() as $store)
                                <option value="{{ $store->id }}" @selected($schedule?->store_id === $store->id)>{{ $store->name }}</option>
                            @endforeach
                        </select>
                        <button class="btn btn-sm btn-primary" @disabled($view->isMaking())>Make a set now</button>
                    </form>
                @endif
                @php($makings = $view->makings())
                @if ($makings->isNotEmpty())
                    <table class="list mt-2" id="makings"
                        @if ($view->isMaking()) hx-get="/workloads/{{ $workload->id }}/care" hx-select="#main" hx-target="#main"
                            hx-swap="outerHTML" hx-trigger="every 2s" @endif>
                        <tbody>
                            @foreach ($makings as $making)
                                <tr>
                                    <td class="tight"><x-moment :at="$making->created_at" :zone="$zone" :offset="false" /></td>
                                    <td class="tight">{{ Level::of($making->level)->words() }} <span
                                            class="muted">{{ $making->why }}</span></td>
                                    <td class="{{ in_array($making->state, ['failed', 'missed'], true) ? 'attention' : 'muted' }}">
                                        {{ ['queued' => 'waits its turn', 'running' => 'is being made' . ($making->entries > 0
                                            ? ', ' . number_format($making->entries) . ' entries' : ''), 'done' => 'made'][$making->state]
                                            ?? $making->state . ': ' . $making->failure }}
                                    </td>
                                </tr>
                            @endforeach
                        </tbody>
                    </table>
                @endif
                @if ($view->canTend && $view->source()->isKnown())
                    <details class="mt-2">
                        <summary>{{ $schedule === null ? 'Give it a schedule' : 'Change the schedule' }}</summary>
                        <form method="post" action="/workloads/{{ $workload->id }}/schedule" class="stack">@csrf
                            <label for="times">Times, one to a line: a time as in crontab, =, and
                                {{ $view->levelsInWords() }}</label>
                            <textarea class="form-control mono" id="times" name="times" rows="3"
                                required>{{ old('times', $schedule === null ? implode("\n", $view->source()->usualTimes())
                                : implode("\n", array_map(fn(array $time): string => "{$time[0]}={$time[1]}",
                                $schedule->times))) }}</textarea>
                            <div class="line-form"><label class="muted" for="zone">zone</label><input class="form-control mono"
                                    id="zone" name="zone" value="{{ old('zone', $schedule->zone ?? $workload->zone) }}"
                                    size="16" required> <label class="muted" for="hours">only between</label><input
                                    class="form-control mono" id="hours" name="hours" placeholder="any hour" size="12"
                                    value="{{ old('hours', $schedule?->window_from === null ? ''
                                        : $schedule->window_from . '-' . $schedule->window_until) }}">
                            </div>
                            <div class="line-form"><label class="muted" for="schedule-store">to</label><select
                                    class="form-select w-auto" id="schedule-store" name="store">
                                    @foreach ($view->folders() as $store)
                                        <option value="{{ $store->id }}"
                                            @selected($schedule?->store_id === $store->id)>{{ $store->name }}</option>
                                    @endforeach
                                </select>
                                <span class="muted">then to</span>
                                @foreach ($view->ours() as $store)
                                    <label class="text-nowrap"><input type="checkbox" name="copy_to[]" value="{{ $store->id }}"
                                            @checked(in_array($store->name, $schedule->copy_to ?? [], true))> {{ $store->name }}</label>
                                @endforeach <label class="muted" for="copy_from">from</label><input
                                    class="form-control mono" id="copy_from" name="copy_from" placeholder="at once" size="7"
                                    value="{{ old('copy_from', $schedule?->copy_from) }}">
                            </div>
                            @if (($schedule->before ?? ($schedule->after ?? null)) !== null)
                                <p class="muted small mb-0">Before it runs <span
                                        class="mono">{{ implode(' ', $schedule->before ?? ['nothing']) }}</span>, after it <span
                                        class="mono">{{ implode(' ', $schedule->after ?? ['nothing']) }}</span>.</p>
                            @endif
                            <p class="muted small mb-0">Commands before and after are set with <span class="mono">bin/kaiseki
                                    schedule</span>.</p>
                            <div class="line-form"><label><input type="checkbox" name="on" value="1"
                                        @checked($schedule->on ?? true)> it is on</label> <button
                                    class="btn btn-sm btn-outline-primary ms-auto">Settle it</button></div>
                        </form>
                    </details>
                @endif
                <h2>Reading back</h2>
                @php($coverage = $view->coverage())
                <p>{{ number_format($coverage['checked']) }} of {{ Words::count($coverage['all'], 'copy', 'copies') }}
                    {{ $coverage['checked'] === 1 ? 'was' : 'were' }} found right when read
                    back{{ $coverage['oldest'] === null ? '' : ', the longest ago on '
                        . Words::moment(CarbonImmutable::parse($coverage['oldest']), $zone, false) }}.
                </p>
                @php($reading = $view->readingBack())
                @if ($reading !== null)
                    <p class="assumed" role="status" hx-get="/workloads/{{ $workload->id }}/care" hx-select="#main" hx-target="#main"
                        hx-swap="outerHTML" hx-trigger="every 2s">{{ $reading['done'] }} of {{ $reading['all'] }} read back.
                        @if ($reading['wrong'] > 0)
                            <span class="attention">{{ $reading['wrong'] }} not right.</span>
                        @endif
                    </p>
                @elseif ($view->canTend)
                    <form method="post" action="/workloads/{{ $workload->id }}/read-back">@csrf<button
                            class="btn btn-sm btn-outline-primary">Read all copies back</button></form>
                @endif
                @php($checks = $view->checks())
                @if ($checks->isNotEmpty())
                    <table class="list mt-2">
                        <tbody>
                            @foreach ($checks as $check)
                                <tr>
                                    <td class="tight"><x-moment :at="$check->at" :zone="$zone" :offset="false" /></td>
                                    <td><span class="mono">{{ $check->set_name }}</span> on {{ $check->store_name }}: <span
                                            class="{{ $check->isRight() ? 'muted'
                                                : 'attention' }}">{{ $check->result }}{{ $check->because === null ? ''
                                                : ". {$check->because}" }}</span>
                                    </td>
                                </tr>
                            @endforeach
                        </tbody>
                    </table>
                @endif
            </div>
            <div class="col-lg-6">
                <h2>Keeping</h2>
                @php($rules = $view->rules())
                @php($expiry = $view->expiry())
                @if ($rules->isEmpty())
                    <p class="muted">No rule says what may expire, so everything stays.</p>
                @else<table class="list">
                        <tbody>
                            @foreach ($rules as $rule)
                                <tr>
                                    <td class="tight">{{ $rule->store ?? 'all other stores' }}</td>
                                    <td class="mono">{{ $rule->rule === '' ? 'nothing' : $rule->rule }}</td>
                                    <td class="tight muted">{{ $rule->every_night ? 'by itself' : 'when somebody says so' }}</td>
                                </tr>
                            @endforeach
                        </tbody>
                    </table>
                @endif
                @if ($view->canTend)
                    <form method="post" action="/workloads/{{ $workload->id }}/rules" class="line-form">@csrf<label class="muted"
                            for="rule-store">on</label><select class="form-select w-auto" id="rule-store" name="store">
                            <option value="">all other stores</option>
                            @foreach ($view->ours() as $store)
                                <option value="{{ $store->id }}">{{ $store->name }}</option>
                            @endforeach
                        </select>
                        <label class="muted" for="rule">keep</label><input class="form-control mono" id="rule"
                            name="rule" size="26" placeholder="everything"
                            title="last=7 hourly=24 daily=14 weekly=8 monthly=12 yearly=5 within=30d" value="{{ old('rule') }}"
                            autocomplete="off"> <label class="text-nowrap"><input type="checkbox" name="every_night"
                                value="1"> by itself</label> <button class="btn btn-sm btn-outline-primary">Settle it</button>
                    </form>
                    <p class="muted small">Such as <span class="mono">last=7 daily=14 weekly=8 monthly=12 within=30d</span>:
                        whatever one of them names stays, and all it needs.</p>
                @endif
                @php($lines = $expiry->lines())
                <h3 class="h6 mt-3">What expires next</h3>
                @if ($lines === [])
                    <p class="muted">Nothing.</p>
                @else
                    <p>{{ Words::count(count($lines), 'copy', 'copies') }}, {{ Words::size($expiry->bytes()) }};
                        {{ Words::count(count($expiry->plan->goneSets()), 'point goes', 'points go') }} with them. None of it is
                        needed by what stays, or by an open request.</p>
                    <div class="scroll short" tabindex="0" role="region" aria-label="What expires next">
                        <table class="list">
                            <tbody>
                                @foreach ($lines as $line)
                                    <tr>
                                        <td class="tight"><x-moment :at="$line['at']" :zone="$zone" :offset="false" /></td>
                                        <td class="tight">{{ $line['level'] }}</td>
                                        <td class="tight">{{ $line['store'] }}</td>
                                        <td class="num"><x-size :bytes="$line['bytes']" /></td>
                                    </tr>
                                @endforeach
                            </tbody>
                        </table>
                    </div>
                    @if ($view->canTend)
                        <details class="mt-2">
                            <summary>Delete these</summary>
                            <form method="post" action="/workloads/{{ $workload->id }}/expire" class="line-form">@csrf<input
                                    type="hidden" name="plan" value="{{ $expiry->fingerprint() }}"><span>Deleted copies do not
                                    come back.@if ($expiry->leavesNothing())
                                        <strong class="attention">No point of {{ $workload->name }} would be left.</strong> Write its
                                        name if that is meant: <input class="form-control mono" name="everything"
                                            aria-label="The name of the workload" size="16">
                                    @endif
                                </span>
                                <button class="btn btn-sm btn-primary">Yes, delete
                                    {{ Words::count(count($lines), 'copy', 'copies') }}</button>
                            </form>
                        </details>
                    @endif
                @endif
                @php($holds = $view->holds())
                @if ($holds->isNotEmpty())
                    <h3 class="h6 mt-3">Held</h3>
                    <table class="list">
                        <tbody>
                            @foreach ($holds as $hold)
                                <tr>
                                    <td class="tight"><a data-row href="/sets/{{ $hold->set_id }}"><x-moment :at="$hold->set->captured_at"
                                                :zone="$zone" :offset="false" /></a></td>
                                    <td>{{ $hold->reason }}</td>
                                    <td class="tight muted">
                                        {{ $hold->until === null ? '' : 'until ' . $hold->until->setTimezone($zone)->format('j M Y') }}
                                    </td>
                                </tr>
                            @endforeach
                        </tbody>
                    </table>
                @endif
                <h2>Promises</h2>
                <dl class="facts wide">
                    <dt>Newest point</dt>
                    <dd>{{ $standing->ageSeconds === null ? 'none is usable' : Words::duration($standing->ageSeconds) . ' old' }};
                        promised
                        {{ $standing->rpoSeconds === null ? 'nothing' : 'at most ' . Words::duration($standing->rpoSeconds) }}</dd>
                    <dt>Whole restore</dt>
                    <dd>{{ $view->restoreInWords() }};
                        promised
                        {{ $standing->rtoSeconds === null ? 'nothing' : 'at most ' . Words::duration($standing->rtoSeconds) }}</dd>
                    <dt>Outside its site</dt>
                    <dd>{{ $standing->isOutside ? 'readable at another site too'
                        : 'not readable anywhere but at ' . $workload->site }}{{ $standing->mustBeOutside ? '; promised' : '' }}
                    </dd>
                </dl>
                @php($days = $view->days())
                @if ($days !== [])
                    <p class="days big" role="img"
                        aria-label="{{ EstateView::daysInWords(array_map(fn($day): bool => (bool) $day->met, $days)) }}">
                        @foreach ($days as $day)
                            <i class="{{ $day->met ? '' : 'missed' }}"
                                title="{{ $day->day }}: {{ $day->age_s === null ? 'no usable point'
                                    : Words::duration((int) $day->age_s) . ' old' }}"></i>
                        @endforeach
                    </p>
                @endif
                @if ($view->canTend)
                    <form method="post" action="/workloads/{{ $workload->id }}/promises" class="line-form">@csrf<label
                            class="muted" for="rpo">point at most</label><input class="form-control mono" id="rpo"
                            name="rpo" size="5" placeholder="26h" value="{{ CareView::span($workload->rpo_s) }}"> <label
                            class="muted" for="rto">restore
                            in</label><input class="form-control mono" id="rto" name="rto" size="5"
                            placeholder="4h" value="{{ CareView::span($workload->rto_s) }}"> <label class="text-nowrap"><input
                                type="checkbox" name="outside" value="1" @checked($workload->needs_outside_copy)>
                            at another site too</label> <button class="btn btn-sm btn-outline-primary">Settle it</button></form>
                @endif
                <h2>Replacing in place</h2>
                <form method="post" action="/workloads/{{ $workload->id }}/approval" class="line-form">@csrf
                    @if ($workload->needs_approval)
                        <span>Waits for a second person, who sees the order and what it does.</span>
                        @can('askForApproval', $workload)
                            <button class="btn btn-sm btn-outline-primary" name="needs" value="0">Ask that it begin at once
                                again</button>
                        @endcan
                    @else
                        <span>Begins when the operator has confirmed it.</span>
                        @can('askForApproval', $workload)
                            <button class="btn btn-sm btn-outline-primary" name="needs" value="1">Have it wait for a second
                                person</button>
                        @endcan
                    @endif
                </form>
                @if ($workload->needs_approval)
                    <p class="muted small mb-1">Deleting its sets, keeping less of it and lifting this mark wait for a second person
                        too.</p>
                    @can('settleWait', $workload)
                        <form method="post" action="/workloads/{{ $workload->id }}/approval" class="line-form">@csrf
                            <label class="muted" for="minutes">what is begun without one waits</label>
                            <input class="form-control mono" id="minutes" name="minutes" size="4" inputmode="numeric" required
                                value="{{ $workload->override_wait_min }}">
                            <span class="muted">minutes</span> <button class="btn btn-sm btn-outline-primary">Settle it</button>
                        </form>
                    @else<p class="muted small">What is begun without one waits {{ $workload->override_wait_min }} min, so that it can
                            be stopped.</p>
                    @endcan
                @endif
            </div>
        </div>
    </main>
</x-layout>
