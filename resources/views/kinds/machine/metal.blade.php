@use('App\Kinds\Machines\Page\MetalView')
@use('App\Words')
@php($one = $view->enrolment)
<x-layout :title="'Enrolment ' . $one->id" here="Desk">
    <main id="main" class="page" @if ($view->isWaiting() && !session('code')) hx-get="{{ $one->page() }}" hx-select="#main"
        hx-target="#main" hx-swap="outerHTML" hx-trigger="every 3s" @endif>
        <h1>Enrolment {{ $one->id }} <span class="muted fs-6 fw-normal">for <a class="text-decoration-underline"
                    href="/workloads/{{ $one->workload_id }}">{{ $one->workload->name }}</a>
                @if ($one->request !== null)
                    and <a class="text-decoration-underline" data-key="Backspace" href="/requests/{{ $one->request_id }}">request
                        {{ $one->request_id }}</a>
                @endif
            </span></h1>
        @if (session('code'))
            <p class="mb-1">Type this at the medium, on the machine that {{ $one->workload->name }} comes onto:</p>
            <p class="fs-3 mono mb-1" id="code">{{ session('code') }}</p>
            <p>It is good once, until <x-moment :at="$one->expires_at" :zone="$zone" />, and is not shown again. <a
                    class="text-decoration-underline" href="/media">Media</a> are made and taken here. <a
                    class="text-decoration-underline" id="typed"
                    href="{{ $one->page() }}">I have typed it</a></p>
        @endif
        @error('layout')
            <p class="attention" role="alert">{{ $message }}</p>
        @enderror
        @error('order')
            <p class="attention" role="alert">{{ $message }}</p>
        @enderror
        @if ($view->machine === null)
            <p id="state">It {{ $one->state() }}.</p>
        @else
            <p id="state">{{ $view->about() }}. It <span
                    @class(['attention' => $one->ended_at === null && $one->isSilent()])>{{ $one->state() }}</span>, heard of last
                <x-moment :at="$one->seen_at" :zone="$zone" />.
                @if ($one->phrase !== null && $one->ended_at === null)
                    On its screen must stand the words <strong class="mono">{{ $one->phrase }}</strong>: if others stand there, it is not
                    this machine.
                @endif
                @if ($one->run_id !== null)
                    <a class="text-decoration-underline" href="/runs/{{ $one->run_id }}">Run {{ $one->run_id }}</a>
                @endif
            </p>
            @include('kinds.machine.metal-disks')
        @endif
        @if ($one->ended_at !== null)
            @include('kinds.machine.metal-ended')
        @elseif ($one->isFollowing())
            @include('kinds.machine.metal-following')
        @elseif ($view->plan !== null)
            @include('kinds.machine.metal-layout')
        @elseif ($view->point === null)
            <p class="attention">{{ $one->workload->name }} has no point that can be used.</p>
        @elseif ($view->machine !== null)
            <form method="post" action="{{ $one->page() }}">@csrf<input type="hidden" name="do" value="read">
                <p>How the disks of <span class="mono">{{ $view->point->name }}</span> were laid out was not read yet.
                    <button class="btn btn-sm btn-primary">Read it</button></p>
            </form>
        @endif
        @can('order', $one)
            @if ($one->ended_at === null && ($one->run === null || $one->run->isOver()))
                <form method="post" action="{{ $one->page() }}" class="mt-4">@csrf<input type="hidden" name="do" value="end">
                    <button class="btn btn-sm btn-outline-secondary" id="end">End this enrolment</button>
                    <span class="muted">Nothing on the machine is changed; its medium stops.</span>
                </form>
            @endif
        @endcan
    </main>
</x-layout>
