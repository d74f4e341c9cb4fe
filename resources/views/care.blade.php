@php($workload = $view->workload)
<x-layout :title="'Care of '.$workload->name" here="Estate">
    <main id="main" class="page care">
        <h1>Care of {{ $workload->name }} <span class="muted fs-6 fw-normal"><a class="text-decoration-underline"
                    href="/workloads/{{ $workload->id }}" data-key="Backspace">its history</a></span></h1>
        <div id="standing" @if ($view->isMoving()) hx-get="/workloads/{{ $workload->id }}/care" hx-trigger="every 2s"
            hx-swap="none" hx-select-oob="#standing,#makings,#reading,#expiring,#promised" @endif>
            <x-looked :at="$view->kept->at()" :busy="$view->kept->isBeingReckoned" :zone="$view->zone" />
            @include('care.concerns')
        </div>
        <div class="row">
            <div class="col-lg-6">
                @include('care.making')
                @includeWhen($view->canLeaveOut(), 'care.left-out')
                @include('care.reading')
            </div>
            <div class="col-lg-6">
                @include('care.keeping')
                @include('care.promises')
                @include('care.replacing')
                @if ($view->partOfKind() !== null)
                    @include($view->partOfKind())
                @endif
            </div>
        </div>
    </main>
</x-layout>
