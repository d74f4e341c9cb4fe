@use('App\Kinds\Machines\Order\PlacementWish')
@use('App\Kinds\Machines\Order\MachineWay')
@use('App\Words')
@php($seen = $sheet->hypervisor()?->lastSeen())
@php($said = $sheet->said)
@php($order = $sheet->placement()?->order)
<h3 class="h6 mt-4">At {{ $said->on }}</h3>
@if ($sheet->hypervisor()?->silent !== null)
    <p class="attention">{{ $sheet->hypervisor()->silent }}, since <x-moment :at="$sheet->hypervisor()->silent_since"
            :zone="$frame->zone" />.</p>
@endif
@if ($seen === null)
    <p class="empty">Nobody has seen what is there yet. Settle it again to look.</p>
@else
    <p class="hint">As it was at <x-moment :at="$sheet->hypervisor()->seen_at" :zone="$frame->zone" />:
        {{ $seen->room->memoryFree }} of {{ $seen->room->memory }} MiB of memory free,
        {{ Words::count($seen->room->slotsFree, 'machine') }} more can run.</p>
    <form method="post" action="/requests/{{ $request->id }}/machine">@csrf<input type="hidden" name="settle" value="place">
        <div class="inline"><label for="machine">Its name there</label><input class="form-control w-auto mono" id="machine"
                name="machine" maxlength="100" placeholder="{{ $order->machine ?? $sheet->workload->name }}"
                value="{{ old('machine', $said->machine) }}"></div>
        @if ($sheet->way()->isThere())
            @foreach (['storage', 'network', 'memory', 'cores', 'cards'] as $field)
                <input type="hidden" name="{{ $field }}" value="{{ $said->$field }}">
            @endforeach
        @else
            <div class="inline mt-2"><label for="storage">Storage</label><select class="form-select w-auto" id="storage" name="storage">
                    <option value="">where its disks are, else where there is most room</option>
                    @foreach ($seen->room->storages as $storage)
                        <option value="{{ $storage->name }}" @selected($said->storage === $storage->name)>{{ $storage->name }},
                            {{ Words::size($storage->free) }} of {{ Words::size($storage->size) }} free</option>
                    @endforeach
                </select><label for="memory">Memory</label><input class="form-control w-auto num" id="memory" name="memory" size="7"
                    inputmode="numeric" placeholder="{{ $order?->settings->memory }}" value="{{ old('memory', $said->memory) }}"> MiB
                <label for="cores">Cores</label><input class="form-control w-auto num" id="cores" name="cores" size="4"
                    inputmode="numeric" placeholder="{{ $order?->settings->cores }}" value="{{ old('cores', $said->cores) }}"></div>
            <div class="inline mt-2"><label for="cards">Network cards</label><select class="form-select w-auto" id="cards" name="cards">
                    @foreach (PlacementWish::cardsInWords() as $cards => $words)
                        <option value="{{ $cards }}" @selected($said->cards === $cards)>{{ $words }}</option>
                    @endforeach
                </select><label for="network">Network</label><select class="form-select w-auto" id="network" name="network">
                    <option value="">the one they were on</option>
                    @foreach ($seen->room->networks as $network)
                        <option value="{{ $network }}" @selected($said->network === $network)>{{ $network }}</option>
                    @endforeach
                </select><label><input type="checkbox" name="new_mac" value="1" @checked($said->newMac)> new addresses</label></div>
            <p class="mt-2 mb-0"><label><input type="checkbox" name="set_aside" value="1" @checked($said->setsAside)> Set a machine aside
                    that has its name there</label></p>
        @endif
        <div class="inline mt-2"><label for="limit">No faster than</label><input class="form-control w-auto num" id="limit"
                name="limit" size="6" inputmode="numeric" value="{{ old('limit', $said->limit) }}"> MB a second</div>
        @if ($sheet->way() === MachineWay::StandUp)
            <div class="inline mt-2"><label for="until">Somebody decides by</label><input class="form-control w-auto" id="until"
                    type="datetime-local" name="until" value="{{ old('until', $view->until()) }}"> what becomes of it</div>
        @endif
        <div class="inline mt-2"><label for="stop">A machine that runs there</label><select class="form-select w-auto" id="stop"
                name="stop">
                <option value="">stands in the way</option>
                <option value="shut-down" @selected($said->stopsIt && $said->shutsDown)>is shut down, and ended if it does not go</option>
                <option value="cut" @selected($said->stopsIt && !$said->shutsDown)>is ended, as if its power were cut</option>
            </select></div>
        @if ($sheet->way() === MachineWay::Whole)
            <div class="inline mb-2"><label for="follow">Not started, it follows the newest point every</label><input
                    class="form-control w-auto num" id="follow" name="follow" size="5" inputmode="numeric"
                    value="{{ old('follow', $said->follow) }}"> minutes</div>
        @endif
        @if ($sheet->way() === MachineWay::StandUp)
            <p class="mb-1"><label><input type="checkbox" name="annex" value="1" @checked($said->annex)> In an annex: a network apart,
                    where it may run beside its original until it is released</label>
                @if ($view->annexes()->isNotEmpty())
                    <label for="joins" class="visually-hidden">Which annex</label><select class="form-select w-auto d-inline-block ms-2"
                        id="joins" name="joins">
                        <option value="">one of its own</option>
                        @foreach ($view->annexes() as $annex)
                            <option value="{{ $annex->run_id }}" @selected($said->joins === $annex->run_id)>beside
                                {{ $annex->run->plan['machine'] }}, run {{ $annex->run_id }}</option>
                        @endforeach
                    </select>
                @endif
            </p>
            <p class="mb-1"><label><input type="checkbox" name="background" value="1" @checked($said->background)> Bring it to its own
                    storage as soon as it answers, while it runs</label></p>
            <p class="muted">It is started at once, and asked who it is.</p>
        @else
            <p><label><input type="checkbox" name="start" value="1" @checked($said->starts)> Start it at the end, and ask it who it
                    is</label></p>
        @endif
        <button class="btn btn-primary">Settle it</button>
    </form>
@endif
