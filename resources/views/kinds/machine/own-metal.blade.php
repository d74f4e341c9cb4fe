@use('App\Kinds\Machines\Http\OwnMachinesController')
@use('App\Words')
@php($one = $view->enrolment)
@php($page = OwnMachinesController::page($one))
@php($drawing = $view->drawing())
<x-layout :title="'Bring ' . $one->workload->name . ' onto other disks'" here="Your machines">
    <main id="main" class="page" @if ($view->isWaiting() && !session('code')) hx-get="{{ $page }}" hx-select="#main" hx-target="#main"
        hx-swap="outerHTML" hx-trigger="every 3s" @endif>
        <h1>{{ $one->workload->name }} onto other disks <a class="fs-6 fw-normal" data-key="Backspace" href="/own-machines">Your
                machines</a></h1>
        @if (session('code'))
            <p class="mb-1">Type this at the medium, on the machine that it comes onto:</p>
            <p class="fs-3 mono mb-1" id="code">{{ session('code') }}</p>
            <p>It is good once, until <x-moment :at="$one->expires_at" :zone="$zone" />, and is not shown again. <a
                    class="text-decoration-underline" id="typed" href="{{ $page }}">I have typed it</a></p>
        @endif
        @if ($view->machine === null)
            <p id="state">It {{ $one->state() }}.</p>
        @else
            <p id="state">{{ $view->about() }}. It {{ $one->state() }}.
                @if ($one->phrase !== null && $one->ended_at === null)
                    On its screen must stand the words <strong class="mono">{{ $one->phrase }}</strong>: if others stand there, it is not
                    this machine.
                @endif
            </p>
            @include('kinds.machine.metal-disks')
        @endif
        @if ($one->run_id !== null)
            <p><a class="text-decoration-underline" href="/requests/{{ $one->request_id }}">Request {{ $one->request_id }}</a> tells how
                far it is.</p>
        @elseif ($one->ended_at === null && $view->plan !== null)
            <h2 class="fs-6">As of <x-moment :at="$view->point->capturedAt()" :zone="$zone" /></h2>
            @include('kinds.machine.layout-drawing')
            @php($blockers = $view->plan->blockers())
            @foreach ([...$view->plan->cautions(), ...$blockers] as $told)
                <p class="assumed mb-1">{{ $told }}</p>
            @endforeach
            @if ($blockers === [])
                <form method="post" action="{{ $page }}" class="mt-3">@csrf
                    @foreach ($view->plan->confirmations() as $name => $asked)
                        <p class="mb-1"><label for="confirm_{{ $name }}">To say that all on <span class="mono">{{ $name }}</span> may be
                                written over, type <span class="mono">{{ $asked }}</span></label>
                            <input class="form-control form-control-sm d-inline-block w-auto mono" id="confirm_{{ $name }}"
                                name="confirm_{{ $name }}" value="{{ old("confirm_$name") }}" autocomplete="off" spellcheck="false"></p>
                    @endforeach
                    <button class="btn btn-primary mt-1" name="do" value="order" id="order">Bring it onto that machine</button>
                    <span class="muted">{{ $view->plan->sentence($zone) }}</span>
                </form>
            @endif
        @elseif ($one->ended_at === null && $view->machine !== null)
            <form method="post" action="{{ $page }}">@csrf
                <p>{{ $view->point === null ? 'It has no set that can be used: ask the desk.'
                        : 'How its disks were laid out was not read yet.' }}
                    @if ($view->point !== null)<button class="btn btn-sm btn-primary" name="do" value="read">Read it</button>@endif</p>
            </form>
        @endif
        @if ($one->ended_at === null && ($one->run === null || $one->run->isOver()))
            <form method="post" action="{{ $page }}" class="mt-4">@csrf
                <button class="btn btn-sm btn-outline-secondary" id="end" name="do" value="end">End this</button>
                <span class="muted">Nothing on the machine is changed; its medium stops.</span>
            </form>
        @endif
    </main>
</x-layout>
