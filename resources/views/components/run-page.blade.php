@use('App\Runs\SetAsides')
@use('App\Words')
@use('Kaiseki\Core\Proof\CheckLine')
@props(['run', 'goOn' => 'Go on with it', 'goOnHint' => '', 'beside' => [], 'backTitle' => 'Put it back'])
@php($zone = auth()->user()->zone)
@php($outcome = $run->outcome ?? [])
@if (!$run->isOver())
    @include('runs.progress')
@else
    <p class="mb-1">
        @if ($run->state === 'done' && $outcome['right'])
            <span class="mark-proven">Proven</span>: run {{ $run->id }} brought back {{ $came }}, and all of it is right.
        @elseif ($run->state === 'done')
            <span class="attention">Not all right</span>: run {{ $run->id }} brought back {{ $came }};
            {{ $wrong ?? 'what is not right stands below.' }}
        @else<span class="attention">Run {{ $run->id }} {{ $run->state === 'stopped' ? 'was stopped' : 'failed' }}.</span>
            {{ $run->failure }}
        @endif
    </p>
    <p class="muted">{{ $run->sentence($zone) }}</p>
    @if ($run->state === 'done')
        <table class="list mb-3">
            <thead>
                <tr>
                    <th>Check</th>
                    <th>Result</th>
                    <th>Detail</th>
                </tr>
            </thead>
            <tbody>
                @foreach (CheckLine::all($outcome['checks']) as $check)
                    <tr>
                        <td>{{ $check->check }}</td>
                        <td class="tight"><span
                                class="{{ ['passed' => 'mark-proven', 'failed' => 'mark-failed'][$check->result] ?? 'muted' }}"
                                >{{ $check->result }}</span>
                        </td>
                        <td>{{ $check->detail }}</td>
                    </tr>
                @endforeach
            </tbody>
        </table>
        <dl class="facts mb-2">
            {{ $facts }}
            <dt>Took</dt>
            <dd>{{ $run->tookInWords() }}; ended <x-moment :at="$run->ended_at" :zone="$zone" /></dd>
            @if ($run->set_aside_until !== null)
                <dt>Set aside</dt>
                <dd>{{ $setAside }}, until <x-moment :at="$run->set_aside_until" :zone="$zone" /></dd>
            @endif
            @foreach ($outcome['commands'] ?? [] as $command)
                <dt>Command {{ $command['when'] }}</dt>
                <dd><span class="mono">{{ implode(' ', $command['command']) }}</span>,
                    {{ Words::duration($command['seconds']) }},
                    {{ $command['exit'] === null ? 'did not end' : 'ended with ' . $command['exit'] }}@if ($command['output'] !== '')
                        <pre class="said">{{ $command['output'] }}</pre>
                    @endif
                </dd>
            @endforeach
            @php($approval = $run->approval)
            @if ($approval !== null)
                <dt>{{ $approval->state === 'overridden' ? 'No approval' : 'Approved by' }}</dt>
                <dd @if ($approval->isToBeReviewed()) class="attention" @endif>{{ $approval->told() }}</dd>
            @endif
            {{ $moreFacts ?? '' }}
        </dl>
        {{ $slot }}
        <p>
            @foreach (['page' => 'Proof to read', 'pdf' => 'PDF', 'proof' => 'Signed (JSON)'] + $beside as $which => $words)
                <a class="btn btn-outline-primary btn-sm" hx-boost="false"
                    href="/runs/{{ $run->id }}/{{ $which }}">{{ $words }}</a>
            @endforeach
        </p>
    @else
        <ul class="steps">
            @foreach ($run->steps as $step)
                <li><span>{{ $step->name }}</span><span
                        class="{{ $step->state === 'failed' ? 'attention' : '' }}">{{ $step->state }}</span><span
                        class="muted">{{ $step->detail }}</span></li>
            @endforeach
        </ul>
    @endif
    @if ($run->canBeGoneOnWith())
        @can('stop', $run)
            <form method="post" action="/runs/{{ $run->id }}/resume" class="mb-2">@csrf
                <button class="btn btn-sm btn-outline-primary" id="go-on">{{ $goOn }}</button> <span
                    class="muted">{{ $goOnHint }}</span>
            </form>
        @endcan
    @endif
    @php($back = $run->outcome['put_back'] ?? null)
    @if (($back['state'] ?? '') === 'asked')
        <p id="put-back" class="attention" role="status" hx-get="{{ url()->current() }}?show=proof" hx-select="#put-back"
            hx-target="#put-back" hx-swap="outerHTML" hx-trigger="every 2s">It is being put back.</p>
    @elseif (($back['state'] ?? '') === 'done')
        <div id="put-back">
            <p class="mb-1">It was put
                back{{ $run->put_back_at === null ? '' : ' on ' . Words::moment($run->put_back_at, $zone) }}: {{ $backTold }}
            </p>
            @if ($back['left'] !== [])
                <p class="attention mb-1">Left as somebody changed it since:</p>
                <ul class="plain-list">
                    @foreach (array_slice($back['left'], 0, 50) as $left)
                        <li><span class="mono">/{{ $left['path'] }}</span>: {{ $left['because'] }}</li>
                    @endforeach
                </ul>
            @endif
            @if ($back['kept'] !== [])
                <p class="mb-1">What somebody changed since is kept as:</p>
                <ul class="plain-list">
                    @foreach (array_slice($back['kept'], 0, 50) as $kept)
                        <li class="mono">/{{ $kept }}</li>
                    @endforeach
                </ul>
            @endif
        </div>
    @elseif (($back['state'] ?? '') === 'failed')
        <p id="put-back" class="attention">It could not be put back: {{ $back['because'] }}</p>
    @endif
    @if ($run->canBePutBack() && ($back['left'] ?? []) === [])
        @can('stop', $run)
            <details class="mt-2">
                <summary>{{ $backTitle }}</summary>
                <form method="post" action="/runs/{{ $run->id }}/put-back" class="mt-2">@csrf
                    {{ $backMeans }}
                    <button class="btn btn-sm btn-outline-primary" id="do-put-back">Yes, undo run {{ $run->id }}</button>
                </form>
            </details>
            @if ($run->set_aside_until !== null)
                <form method="post" action="/runs/{{ $run->id }}/set-aside" class="mt-1">@csrf
                    <button class="link">Keep the set-aside {{ SetAsides::DAYS }} days longer</button>
                </form>
            @endif
        @endcan
    @endif
@endif
