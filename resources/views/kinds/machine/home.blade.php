@use('App\Kinds\Machines\Page\MachineView')
@use('App\Words')
@php($substitute = $view->substitute)
<section id="home" class="standing mb-3">
    @error('home')
        <p class="attention mb-1" role="alert">{{ $message }}</p>
    @enderror
    @if ($view->isHome)
        <p class="mb-1">{{ $view->machine }} at <span class="mono">{{ $view->run->plan['on'] }}</span> is the original now; sets are made of
            it. It was off for {{ Words::duration((float) ($view->run->outcome['off_for_s'] ?? 0)) }}. What stood in,
            <span class="mono">{{ $substitute->machine }}</span> at <span class="mono">{{ $substitute->hypervisor->name }}</span>, is off,
            and kept until <x-moment :at="$view->run->set_aside_until" :zone="$zone" />: there is a way back to it until then.</p>
        @can('stop', $view->run)
            <form method="post" action="/runs/{{ $view->run->id }}/accept">@csrf
                <label><input type="checkbox" name="sure" value="1" required> {{ $substitute->machine }} at
                    {{ $substitute->hypervisor->name }} may go for good</label>
                <button class="btn btn-sm btn-primary" id="accept-home">Accept that it is home</button>
            </form>
        @endcan
    @elseif ($substitute === null)
        <p class="mb-1"><span class="mono">{{ $view->run->plan['machine'] }}</span> at <span
                class="mono">{{ $view->run->plan['on'] }}</span> is not at the hypervisor of its original, which is
            <span class="mono">{{ $view->machine }}</span> at <span class="mono">{{ $view->home->name }}</span>.
            Sets are made of that one still.</p>
        @can('stop', $view->run)
            <form method="post" action="/runs/{{ $view->run->id }}/stand-in" class="inline">@csrf
                @foreach ($view->names() as $name)
                    @include('kinds.machine.leads', ['name' => $name])
                    @if ($loop->last)
                        <label for="address">Its address at {{ $view->run->plan['on'] }}</label><input class="form-control w-auto mono"
                            id="address" name="address" size="16" value="{{ old('address') }}" autocomplete="off" spellcheck="false">
                        <span class="muted">{{ $loop->count === 1 ? 'It leads' : 'They lead' }} there from then on; left empty,
                            {{ $loop->count === 1 ? 'it stays as it is' : 'they stay as they are' }}.</span>
                        <span class="w-100"></span>
                    @endif
                @endforeach
                @if ($view->home->silent !== null)
                    <label><input type="checkbox" name="home_is_down" value="1" required> I have seen that
                        {{ $view->machine }} is down: {{ $view->home->name }} does not answer</label>
                @endif
                <button class="btn btn-sm btn-primary" id="stand-in">Let it stand in</button>
                <span class="muted">Sets are made of it from then on, and the original is not started beside it.</span>
            </form>
        @endcan
    @else
        <p class="mb-1"><a class="mono text-decoration-underline"
                href="{{ MachineView::ofRun($view->run) }}">{{ $substitute->machine }}</a> at <span
                class="mono">{{ $substitute->hypervisor->name }}</span> stands in for
            <span class="mono">{{ $view->machine }}</span> at <span class="mono">{{ $view->home->name }}</span>, since
            <x-moment :at="$substitute->created_at" :zone="$zone" />; sets are made of it.</p>
        @if ($view->home->silent !== null)
            <p class="attention mb-1">{{ $view->home->name }} does not answer.</p>
        @elseif ($substitute->originalRuns() === true)
            <p class="attention mb-1">{{ $view->machine }} at {{ $view->home->name }} runs again: shut one of the two down.</p>
        @elseif ($view->original() !== null)
            <p class="mb-1">What stands there as {{ $view->machine }} is off; nobody starts it beside this one.</p>
        @else
            <p class="mb-1">Nothing stands there as {{ $view->machine }}.</p>
        @endif
        @foreach ($substitute->ledNames() as $led)
            <p class="mb-1"><span class="mono">{{ $led->name }}</span> was led to <span class="mono">{{ $led->to->words() }}</span>, from
                <span class="mono">{{ $led->from->words() }}</span>; it is led back when the machine is at home.</p>
        @endforeach
        @if ($substitute->home_at !== null)
            <p class="mb-1">It is brought home from <x-moment :at="$substitute->home_at" :zone="$zone" /> on.</p>
        @endif
        @if ($substitute->isGoingHome())
            <p class="mb-0"><a href="{{ $substitute->homeRun->page() }}">Run {{ $substitute->home_run_id }}</a> brings it home.</p>
        @else
            @can('stop', $view->run)
                <form method="post" action="/runs/{{ $view->run->id }}/home" data-form="home">@csrf
                    <p class="inline mb-1">
                        <label for="home-on">To</label><select class="form-select w-auto" id="home-on" name="on">
                            @foreach ($view->homes as $host)
                                <option value="{{ $host->name }}" @selected(old('on') === $host->name)>{{ $host->name }},
                                    {{ $host->site }}{{ $host->silent === null ? '' : ': does not answer' }}</option>
                            @endforeach
                        </select>
                        <label for="home-storage">storage</label><select class="form-select w-auto" id="home-storage" name="storage">
                            <option value="">where its disks are, else with most room</option>
                            @foreach ($view->storages() as $name => $where)
                                <option value="{{ $name }}" @selected(old('storage') === $name)>{{ $name }}: {{ $where }}</option>
                            @endforeach
                        </select>
                    </p>
                    <p class="inline mb-1">
                        <label for="home-network">Network</label><select class="form-select w-auto" id="home-network" name="network">
                            <option value="">the one it was on</option>
                            @foreach ($view->networks() as $network)
                                <option @selected(old('network') === $network)>{{ $network }}</option>
                            @endforeach
                        </select>
                        <label for="home-at">beginning</label><input class="form-control w-auto" id="home-at" type="datetime-local"
                            name="at" value="{{ old('at') }}">
                        <button class="btn btn-sm btn-primary" id="go-home">Bring it home</button>
                    </p>
                    @if ($substitute->ledNames() !== [])
                        <p class="inline mb-1"><label for="address">Its address there</label><input class="form-control w-auto mono"
                                id="address" name="address" size="16" value="{{ old('address') }}" autocomplete="off"
                                spellcheck="false">
                            <span class="muted">Left empty, its names lead to the one that they led to before.</span></p>
                    @endif
                    @if (!$view->isNewThere())
                        <p class="mb-1"><label><input type="checkbox" name="set_aside" value="1" @checked(old('set_aside'))> Set what stands
                                there aside, and bring all of it anew</label></p>
                    @endif
                    <p class="muted small mb-0">Its newest set is brought there while it runs. Then it is shut down, a set of what came
                        since is made and written over there, and the one at home is started and asked who it is. The one here stays, off,
                        until that is accepted. Left empty, it begins now.</p>
                </form>
            @endcan
        @endif
    @endif
</section>
