<x-layout title="Estate" here="Estate">
    <main id="main" class="page">
        <div class="d-flex align-items-baseline">
            <h1>Estate</h1>
            <span class="muted ms-3">{{ number_format($view->lines->total()) }}</span>
        </div>
        @if ($view->isEmpty())
            <p class="empty">Nothing is protected or adopted yet. <span class="mono">bin/kaiseki adopt DIR --as=NAME
                    --kind=files</span> registers archives you already have; <span class="mono">bin/kaiseki protect NAME --source=DIR
                    --level=full</span> makes a set of a folder.</p>
        @else
            @include('estate.filter')
            <div id="workloads">
                @if ($view->lines->isEmpty())
                    <p class="empty">No workload fits that. <a href="/estate">See all.</a></p>
                @else
                    <x-looked :at="$view->lookedAt()" :busy="$view->isBeingReckoned()" :zone="$zone" part="#workloads"
                        :url="$view->lines->url($view->lines->currentPage())" />
                    @include('estate.lines')
                @endif
            </div>
            @includeWhen($view->unprotected !== [], 'estate.unprotected')
        @endif
        @foreach ($view->partsOfKinds() as $part)
            @include($part, ['user' => $view->viewer])
        @endforeach
        <p class="muted mt-4"><a class="text-decoration-underline" href="/agents">Machines that send their sets themselves</a></p>
        <p class="muted"><a class="text-decoration-underline" href="/kinds">Kinds of workloads, and what each needs on this
                machine</a></p>
    </main>
</x-layout>
