@use('App\Words')
@php($alarms = $view->alarms())
@if ($view->waiting !== [] || $alarms > 0)
    <div class="d-flex align-items-baseline">
        <h2 class="mt-0">Waits for you</h2>
        @if ($alarms > 0)
            <a class="ms-auto attention text-decoration-underline" href="/alarms">{{ Words::count($alarms, 'alarm') }} that nobody sees to
                yet</a>
        @endif
    </div>
@endif
@if ($view->waiting !== [])
    <table class="list waiting mb-4">
        <thead class="visually-hidden">
            <tr>
                <th>About</th>
                <th>What</th>
                <th>When</th>
                <th>Next step</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($view->shown() as $thing)
                <tr>
                    <td class="tight">{{ $thing->about }}</td>
                    <td class="{{ $thing->isUrgent() ? 'attention' : '' }}">{{ $thing->what }}</td>
                    <td class="tight muted">
                        @if ($thing->at !== null)
                            <x-moment :at="$thing->at" :zone="$view->user->zone" :offset="false" />
                        @endif
                    </td>
                    <td><a id="{{ $thing->id }}" data-row href="{{ $thing->url }}">{{ $thing->step }}</a></td>
                </tr>
            @endforeach
        </tbody>
    </table>
    @if ($view->more() > 0)
        <p class="mb-4"><a class="text-decoration-underline" href="/?all=1">and {{ $view->more() }} more</a></p>
    @endif
@endif
