@use('App\View\ChartWindow')
@use('Kaiseki\Core\Chain\Level')
@php($window = $chart->window)
@php($mid = $chart->middle())
@php($step = $window->step())
<div class="toggles tools">
    @if (count($chart->levels()) > 1)<span class="muted">show</span>
        @foreach ($chart->levels() as $level)
            <a class="toggle" role="button" id="level-{{ $level }}"
                aria-pressed="{{ $window->levels === [] || in_array($level, $window->levels, true) ? 'true' : 'false' }}"
                href="{{ $base }}{{ $window->turned($level, $chart->levels()) }}">{{ Level::of($level)->words() }}</a>
        @endforeach
    @endif
    <span class="states" role="group" aria-label="By state">
        @foreach (ChartWindow::STATES as $state => $words)
            <a id="state-{{ $state === '' ? 'all' : $state }}" href="{{ $base }}{{ $window->inState($state) }}"
                @if ($window->state === $state) aria-current="true" @endif>{{ $words }}</a>
        @endforeach
    </span>
    <span class="push text-nowrap"><span class="muted">{{ $window->inWords() }}</span>
        <a id="earlier" class="step" data-key="[" title="Earlier ([)" aria-label="Earlier"
            href="{{ $base }}{{ $window->query(null, $mid - $step) }}">←</a><a id="later" class="step" data-key="]"
            title="Later (])" aria-label="Later" href="{{ $base }}{{ $window->query(null, $mid + $step) }}">→</a><a
            id="nearer" class="step" data-key="+" title="Fewer days (+)" aria-label="Show less time"
            href="{{ $base }}{{ $window->query($window->days / 2, $window->middle === null ? null : $mid) }}">+</a><a
            id="farther" class="step" data-key="-" title="More days (-)" aria-label="Show more time"
            href="{{ $base }}{{ $window->query($window->days * 2, $window->middle === null ? null : $mid) }}">−</a>
        @if ($window->middle !== null)
            <a id="recentre" class="step" data-key="0" title="Back to the {{ $canMove ? 'wanted moment' : 'newest' }} (0)"
                href="{{ $base }}{{ $window->withoutMiddle() }}">{{ $canMove ? 'wanted' : 'newest' }}</a>
        @endif
    </span>
    <a id="chart-go" hidden hx-push-url="true" href="{{ $base }}" data-base="{{ $base }}"
        data-filters="{{ $window->filtersOnly() }}">there</a>
</div>
