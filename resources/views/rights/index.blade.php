@use('App\Words')
<x-layout title="Rights" here="Rights">
    <main id="main" class="page">
        <h1>Who may reach what</h1>
        <form class="line-form" action="/rights"><label class="muted" for="of">only</label><input class="form-control" id="of"
                name="of" size="30" maxlength="200" placeholder="part of a name, a place or a group" value="{{ $view->filter }}"
                data-key="f" autocomplete="off"><button class="btn btn-sm btn-outline-primary">Show</button>
            @if ($view->filter !== '')
                <a href="/rights">all</a>
            @endif
        </form>
        @if ($view->targets === [])
            <p class="empty">
                @if ($view->filter === '')
                    There is nothing yet that an order could reach. <span class="mono">bin/kaiseki host-add</span>, <span
                        class="mono">store-add</span> and <span class="mono">server add</span> make targets known.
                @else
                    No target has "{{ $view->filter }}" in its name, its place or its groups.
                @endif
            </p>
        @else
            <table class="list">
                <thead>
                    <tr>
                        <th>Target</th>
                        <th></th>
                        <th>Where</th>
                        <th>Who may do what with it</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($view->targets as $target)
                        <tr>
                            <td class="tight"><a data-row href="/rights/{{ $target::sort() }}/{{ $target->id() }}">{{ $target->name() }}</a>
                            </td>
                            <td class="tight muted">{{ $target::sort() }}</td>
                            <td class="mono cut" title="{{ $target->whereabouts() }}">{{ $target->whereabouts() }}</td>
                            <td>
                                @forelse ($view->inWords($target) as $words)
                                    <div>{{ $words }}</div>
                                @empty
                                    <span class="attention">nobody: it belongs to no group</span>
                                @endforelse
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            @if ($view->fitting > count($view->targets))
                <p class="muted mt-2">{{ Words::count($view->fitting, 'target') }} fit; the first {{ count($view->targets) }} are shown.</p>
            @endif
        @endif
        <p class="muted mt-3">The same at a terminal: <span class="mono">bin/kaiseki rights list</span></p>
    </main>
</x-layout>
