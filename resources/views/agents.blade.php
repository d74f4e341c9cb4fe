@use('App\Agents\AgentScript')
@use('App\Words')
@use('Carbon\CarbonImmutable')
<x-layout title="Agents" here="Estate">
    <main id="main" class="page">
        <h1>Machines that send their sets themselves</h1>
        @php($current = $view->current())
        @if ($current->isEmpty())
            <p class="empty">No machine has an agent yet. One is a single file: made here, copied to the machine, and installed there
                as root. It speaks to this desk alone, over TLS, and sends what the desk asks for.</p>
        @else
            <table class="list">
                <thead>
                    <tr>
                        <th>Workload</th>
                        <th>The machine</th>
                        <th>How it is</th>
                        <th>Last heard</th>
                        <th>Newest set</th>
                        <th>Words on its screen</th>
                        <th></th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($current as $agent)
                        <tr>
                            <td class="tight"><a data-row href="/workloads/{{ $agent->workload_id }}">{{ $agent->workload->name }}</a></td>
                            <td>{{ $agent->host }}
                                <div class="muted small">{{ implode(', from ', array_filter([$agent->system, $agent->address])) }}</div>
                            </td>
                            <td class="@if ($agent->isSilent()) attention @endif">{{ $agent->state() }}
                                @if ($agent->token !== null && $agent->version !== AgentScript::VERSION)
                                    <div class="muted small">older than this desk: have a new file made for it</div>
                                @endif
                                @if ($agent->token === null)
                                    <div class="muted small">its code is good until <x-moment :at="$agent->expires_at" :zone="$zone"
                                            :offset="false" /></div>
                                @endif
                            </td>
                            <td class="tight">
                                @if ($agent->seen_at === null)
                                    <span class="muted">never</span>
                                @else
                                    {{ Words::duration(max(0, $agent->seen_at->diffInSeconds(now()))) }} ago
                                @endif
                            </td>
                            <td class="tight">
                                @if ($agent->workload->sets_max_captured_at === null)
                                    <span class="attention">none yet</span>
                                @else
                                    <x-moment :at="CarbonImmutable::parse($agent->workload->sets_max_captured_at)" :zone="$zone"
                                        :offset="false" />
                                @endif
                            </td>
                            <td class="mono">{{ $agent->phrase }}</td>
                            <td>
                                @can('tend', $agent)
                                    <details>
                                        <summary>Revoke</summary>
                                        <form method="post" action="/agents/{{ $agent->id }}">@csrf
                                            <p class="mb-1">Nothing more is taken from that machine; the sets that are there stay.</p>
                                            <button class="btn btn-sm btn-outline-danger" id="revoke-{{ $agent->id }}">Revoke it</button>
                                        </form>
                                    </details>
                                @endcan
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        @if ($view->mayMake())
            <h2>One more</h2>
            <form method="post" action="/agents" class="stacked" id="new-agent">@csrf
                <p class="muted">The file has a code in it that is good once, for a day. On the machine: <span class="mono">sh
                        kaiseki-agent-NAME.sh install</span>. Then compare the two words that it shows with those above. Sets of it are
                    made by the schedule of its workload.</p>
                <div class="row g-2 align-items-end">
                    <div class="col-auto"><label class="form-label" for="name">Workload</label><input class="form-control mono"
                            id="name" name="name" required maxlength="100" value="{{ old('name') }}" placeholder="gate-console"></div>
                    <div class="col-auto"><label class="form-label" for="desk">Where it reaches this desk</label><input
                            class="form-control mono" id="desk" name="desk" required maxlength="210"
                            value="{{ old('desk', $view->desk()) }}" placeholder="HOST:PORT"></div>
                    <div class="col-auto"><label class="form-label" for="group">Group, if it is new</label><input
                            class="form-control mono" id="group" name="group" maxlength="60" list="groups"
                            value="{{ old('group', $view->user->seesAllGroups() ? '' : $view->groups()[0] ?? '') }}"><datalist id="groups">
                            @foreach ($view->groups() as $group)
                                <option value="{{ $group }}"></option>
                            @endforeach
                        </datalist></div>
                    <div class="col-auto"><button class="btn btn-primary">Make its file</button></div>
                </div>
            </form>
        @endif
        @php($over = $view->over())
        @if ($over->isNotEmpty())
            <h2>Over</h2>
            <ul class="plain">
                @foreach ($over as $agent)
                    <li>{{ $agent->workload->name }}: {{ $agent->host }} <span class="muted">{{ $agent->state() }}</span></li>
                @endforeach
            </ul>
        @endif
    </main>
</x-layout>
