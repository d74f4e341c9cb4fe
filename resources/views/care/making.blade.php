@use('Kaiseki\Core\Chain\Level')
@php($workload = $view->workload)
@php($zone = $view->zone)
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
    <table class="list mt-2" id="makings">
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
