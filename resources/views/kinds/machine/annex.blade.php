@use('App\Kinds\Machines\Annex\AnnexChange')
@use('App\Words')
@use('Kaiseki\Core\Catalog\Shown')
@php($annex = $view->annex)
<section id="annex" class="annex mb-3" @if ($view->isWaiting()) hx-get="{{ $annex->run->page() }}" hx-select="#annex"
    hx-target="this" hx-swap="outerHTML" hx-trigger="every 1s" @endif>
    <h2 class="h6">In its annex</h2>
    @if ($view->isOpen())
        <p class="mb-2">It reaches nothing but other machines of the annex, and what it sends elsewhere is written down and goes nowhere.
            The desk comes in by a door of its own.
            @foreach ($view->others as $other)
                {{ $loop->first ? 'In it is ' : ', ' }}<a class="mono text-decoration-underline"
                    href="{{ $other->run->page() }}">{{ $other->run->plan['machine'] }}</a>{{ $loop->last ? ' as well.' : '' }}
            @endforeach
        </p>
    @else
        <p class="mb-2">It was {{ $annex->ended }} out of it <x-moment :at="$annex->ended_at" :zone="$zone" />.</p>
    @endif
    @if (!$view->mayLook())
        <p class="muted">You may not look at what it sent and what was done in it.</p>
    @else
        @if ($annex->unread !== null)
            <p class="attention">{{ $annex->unread }}</p>
        @endif
        @if ($view->wanted() === [])
            <p class="muted mb-2">Nothing that it sent wanted out{{ $annex->looked_at === null ? ' so far' : '' }}.</p>
        @else
            <table class="list w-auto mb-1">
                <thead>
                    <tr>
                        @if ($view->isShared())
                            <th class="pe-4">Machine</th>
                        @endif
                        <th class="pe-4">{{ $view->isShared() ? 'Wanted' : 'It wanted' }}</th>
                        <th class="num pe-4">Packets</th>
                        <th class="pe-4">First</th>
                        <th>Last</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($view->wanted() as [$one, $first, $last])
                        <tr>
                            @if ($view->isShared())
                                <td class="mono pe-4">{{ Shown::name($one->sender) }}</td>
                            @endif
                            <td class="mono pe-4">{{ Shown::name($one->words()) }}</td>
                            <td class="num pe-4">{{ number_format($one->packets) }}</td>
                            <td class="pe-4"><x-moment :at="$first" :zone="$zone" :offset="false" /></td>
                            <td><x-moment :at="$last" :zone="$zone" :offset="false" /></td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            <p class="muted small mb-2">{{ Words::count($annex->packets(), 'packet') }}{{ $annex->beyond === 0 ? '' :
                ', of which the record had no room for ' . number_format($annex->beyond) }}. Nobody had them.
                <a href="/runs/{{ $annex->run_id }}/annex.pcapng">The packets themselves, as pcapng</a></p>
        @endif
        @if ($view->changes->isNotEmpty())
            <table class="list mb-2">
                <thead>
                    <tr>
                        <th class="pe-4">Done in it</th>
                        <th class="pe-4">Why</th>
                        <th class="pe-4">Who</th>
                        <th>What came of it</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($view->changes as $change)
                        <tr>
                            <td class="mono pe-4">{{ $change->words() }}
                                <div class="muted small"><x-moment :at="$change->created_at" :zone="$zone" :offset="false" />{{
                                    $change->sort === AnnexChange::TYPE ? ', typed' : '' }}</div></td>
                            <td class="pe-4">{{ $change->why }}</td>
                            <td class="tight pe-4">{{ $change->user?->name ?? 'the command line' }}</td>
                            <td>
                                @if ($change->state === AnnexChange::WAITING)
                                    <span class="muted" role="status">at work</span>
                                @else
                                    <pre class="said mb-0 {{ $change->state === AnnexChange::FAILED ? 'attention' : '' }}">{{
                                        $change->result }}</pre>
                                @endif
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
    @endif
    @include('kinds.machine.scan')
    @if ($view->isOpen())
        @can('stop', $annex->run)
            @foreach (['what', 'why', 'inside'] as $field)
                @error($field)
                    <p class="attention mb-1" role="alert">{{ $message }}</p>
                @enderror
            @endforeach
            <form method="post" action="/runs/{{ $annex->run_id }}/inside" class="inline mb-2">@csrf
                <label for="inside-what">Do in it</label><input class="form-control w-auto mono" id="inside-what" name="what" size="36"
                    maxlength="1000" value="{{ old('what') }}" autocomplete="off" spellcheck="false">
                <label for="inside-why">because</label><input class="form-control w-auto" id="inside-why" name="why" size="28"
                    maxlength="300" value="{{ old('why') }}">
                <button class="btn btn-sm btn-outline-primary" name="sort" value="{{ AnnexChange::RUN }}"
                    id="run-inside">Run it by its agent</button>
                <button class="btn btn-sm btn-outline-primary" name="sort" value="{{ AnnexChange::TYPE }}"
                    id="type-inside">Type it at its serial line</button>
            </form>
            @error('release')
                <p class="attention mb-1" role="alert">{{ $message }}</p>
            @enderror
            @if ($view->release !== null)
                <p class="mb-0">Run <a class="text-decoration-underline"
                        href="{{ $view->release->page() }}">{{ $view->release->id }}</a> releases it.</p>
            @else
                @foreach ($view->blockers as $blocker)
                    <p class="attention mb-1">{{ $blocker }}</p>
                @endforeach
                <form method="post" action="/runs/{{ $annex->run_id }}/release" class="inline" data-form="release">@csrf
                    @if (!$view->isScanned())
                        <label><input type="checkbox" name="unscanned" value="1"> Release it unscanned</label>
                    @endif
                    @if ($view->isNameTaken())
                        <label><input type="checkbox" name="set_aside" value="1"> End the machine {{ $view->name() }} that is there,
                            and set it aside</label>
                    @endif
                    <button class="btn btn-sm btn-primary" id="release" @disabled($view->blockers !== [])>Release it onto
                        {{ $view->networks() }}</button>
                </form>
                <p class="muted small mb-0">It is shut down and started again for that, and asked who it is. It goes on reading from
                    its sets until it is settled.</p>
            @endif
        @endcan
    @endif
</section>
