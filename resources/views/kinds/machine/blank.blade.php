@use('App\Kinds\Machines\Http\BlankRequest')
@use('App\Words')
@use('Kaiseki\Core\Hypervisor\Bus')
@use('Kaiseki\Core\Hypervisor\Firmware')
@php($request = $view->request)
@php($settings = $view->plan?->order->settings)
@php($room = $view->seen?->room)
@php($then = request('then') ?: BlankRequest::DRILL)
@php($drawing = $view->drawing())
@php($blockers = $view->blockers())
<x-layout :title="'Onto a blank machine, for request ' . $request->id" here="Desk">
    <main id="main" class="page">
        <h1>Onto a blank machine <span class="muted fs-6 fw-normal">for <a class="text-decoration-underline" data-key="Backspace"
                    href="/requests/{{ $request->id }}?show=where">request {{ $request->id }}</a>, all of
                <a class="text-decoration-underline" href="/workloads/{{ $request->workload_id }}">{{ $request->workload->name }}</a>
                @if ($view->point !== null)
                    as of <x-moment :at="$view->point->capturedAt()" :zone="$zone" />
                @endif
            </span></h1>
        @if ($view->plan !== null)
            <p class="order-shown mb-1" id="sentence">{{ $view->plan->sentence($zone) }}</p>
        @endif
        @php($drill = $view->lastDrill())
        @if ($drill !== null)
            <p class="muted mb-1" id="last-drill">Drilled last by <a class="text-decoration-underline"
                    href="/runs/{{ $drill->id }}">run {{ $drill->id }}</a>, <x-moment :at="$drill->ended_at" :zone="$zone" />, in
                {{ Words::duration($drill->seconds() ?? 0.0) }}:
                @if ($drill->outcome['right'] ?? false)<span class="mark-proven">all right</span>@else<span class="attention">not all
                        right</span>@endif</p>
        @endif
        @if ($view->because !== '' && $errors->isEmpty())
            <p class="attention mb-1" role="alert">{{ $view->because }}</p>
        @endif
        @if ($view->point === null)
            <p class="attention">{{ $request->workload->name }} has no point that can be used.</p>
        @elseif ($view->host === null)
            <p class="empty">No hypervisor is known that answers, and that you may write to. One is made known with
                <span class="mono">bin/kaiseki hypervisor add</span>.</p>
        @else
            <form method="post" action="/requests/{{ $request->id }}/blank">@csrf
                @foreach ($view->plan === null ? [] : $view->plan->cautions() as $caution)
                    <p class="assumed mb-1">{{ $caution }}</p>
                @endforeach
                @foreach ($errors->isEmpty() ? $blockers : [] as $blocker)
                    <p class="attention mb-1">{{ $blocker }}</p>
                @endforeach
                @include('kinds.machine.layout-drawing')
                <div class="halves mt-3">
                    <fieldset>
                        <legend class="h6">Then</legend>
                        @foreach ([
                            BlankRequest::DRILL => ['a drill: it is removed again', 'Started in a network apart, where it reaches '.
                                'nobody, and asked who it is. How long each step took is kept.'],
                            BlankRequest::OFF => ['it stays there, off', 'Start it when the old one is off.'],
                            BlankRequest::STARTED => ['it stays there, and is started', 'On its network at once, and asked who it is.'],
                            BlankRequest::WAITS => ['it waits there, and is kept in step until it is switched over',
                                'Then it is started. Its medium takes what newer points have changed.'],
                        ] as $value => [$title, $hint])
                            <div class="choice"><input type="radio" id="then-{{ $value }}" name="then" value="{{ $value }}"
                                    @checked($then === $value) @if ($then === $value) data-focus @endif><label
                                    for="then-{{ $value }}">{{ $title }}</label>
                                <div class="form-text">{{ $hint }}</div>
                            </div>
                        @endforeach
                        <div class="inline ms-4"><label for="follow">Newer points are looked for every</label><input
                                class="form-control num" id="follow" name="follow" size="4" inputmode="numeric" placeholder="15"
                                value="{{ old('follow', request('follow')) }}"> min</div>
                        <p class="mb-1 mt-2"><label><input type="checkbox" name="renew_id" value="1" @checked($view->wish->renewsId)> With
                                a machine id of its own</label> <span class="form-text">Where the machine that it was is used
                                further.</span></p>
                    </fieldset>
                    <fieldset>
                        <legend class="h6">Where</legend>
                        <div class="inline mb-2"><label for="on">Hypervisor</label><select class="form-select" id="on" name="on">
                                @foreach ($view->hosts as $host)
                                    <option value="{{ $host->id }}" @selected($host->id === $view->host->id)>{{ $host->name }},
                                        {{ $host->site }}{{ $host->silent === null ? '' : ': does not answer' }}</option>
                                @endforeach
                            </select><label for="machine">as</label><input class="form-control mono" id="machine" name="machine"
                                maxlength="100" size="16" placeholder="{{ $request->workload->name }}"
                                value="{{ old('machine', $view->wish->machine) }}"></div>
                        <div class="inline mb-2"><label for="storage">Storage</label><select class="form-select" id="storage"
                                name="storage">
                                <option value="">where there is most room</option>
                                @foreach ($room->storages ?? [] as $storage)
                                    <option value="{{ $storage->name }}" @selected($view->wish->storage === $storage->name)>
                                        {{ $storage->name }}, {{ Words::size($storage->free) }} free</option>
                                @endforeach
                            </select><label for="network">Network in the end</label><select class="form-select" id="network"
                                name="network">
                                <option value="">{{ $settings?->networks()[0] ?? 'the first' }}</option>
                                @foreach (array_diff($room->networks ?? [], $settings?->networks() ?? []) as $network)
                                    <option value="{{ $network }}" @selected($view->wish->network === $network)>{{ $network }}</option>
                                @endforeach
                            </select></div>
                        <div class="inline mb-2"><label for="memory">Memory</label><input class="form-control num" id="memory"
                                name="memory" size="6" inputmode="numeric" placeholder="{{ $settings?->memory }}"
                                value="{{ old('memory', $view->wish->memory) }}"> MiB
                            <label for="cores">Cores</label><input class="form-control num" id="cores" name="cores" size="3"
                                inputmode="numeric" placeholder="{{ $settings?->cores }}" value="{{ old('cores', $view->wish->cores) }}">
                            <label for="firmware">Firmware</label><select class="form-select" id="firmware" name="firmware">
                                <option value="">{{ strtoupper($settings?->firmware->value ?? 'as it was') }}</option>
                                @foreach (array_filter(Firmware::cases(), fn ($one) => $one !== $settings?->firmware) as $one)
                                    <option value="{{ $one->value }}">{{ strtoupper($one->value) }}</option>
                                @endforeach
                            </select><label for="bus">Disks by</label><select class="form-select" id="bus" name="bus">
                                @foreach (Bus::cases() as $bus)
                                    <option value="{{ $bus->value }}" @selected($view->wish->bus === $bus)>{{ $bus->value }}</option>
                                @endforeach
                            </select></div>
                        <div class="inline"><label for="asked">Asked for the page</label><input class="form-control mono" id="asked"
                                name="asked" size="14" maxlength="200" placeholder="{{ $view->plan?->order->answer?->asked ?? '/path' }}"
                                value="{{ old('asked', request('asked')) }}"><label for="answers">it answers with</label><input
                                class="form-control mono grow" id="answers" name="answers" maxlength="2000"
                                placeholder="{{ implode(' ', $view->plan?->order->answer?->files ?? ['/etc/hostname']) }}"
                                value="{{ old('answers', request('answers')) }}"></div>
                        <p class="form-text mb-0">Files as they are listed when it is browsed, with spaces between them.</p>
                    </fieldset>
                </div>
                <p class="mt-3"><button class="btn btn-sm btn-outline-primary" id="settle" name="do"
                        value="read">{{ $view->isRead() ? 'Show it like that' : 'Read how its disks were laid out' }}</button>
                    @if ($view->plan !== null && $blockers === [])
                        <input type="hidden" name="shown" value="{{ $view->plan->fingerprint() }}">
                        <button class="btn btn-primary ms-2" id="order" name="do" value="order">{{ $then === BlankRequest::DRILL
                            ? 'Begin the drill' : 'Bring it there' }}</button>
                        <span class="muted ms-2">Up to {{ Words::size($view->plan->needs()) }} of
                            {{ array_values($view->plan->order->storages)[0] }}; a code for its medium alone is made, and ends with
                            it.</span>
                    @endif
                </p>
            </form>
        @endif
    </main>
</x-layout>
