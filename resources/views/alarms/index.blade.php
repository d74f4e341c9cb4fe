<x-layout title="Alarms" here="Desk">
    <main id="main" class="page">
        <p class="mb-1"><a data-key="Backspace" href="/">Desk</a></p>
        <h1>Alarms</h1>
        @if ($receivers === 0)
            <p class="attention">Nobody is sent them: they stand here, and in log/alarms.log. <span class="mono">bin/kaiseki alarm to NAME
                    --mail=ADDRESS</span> names somebody.</p>
        @endif
        @if ($open->isEmpty())
            <p class="empty">There is none.</p>
        @else
            <table class="list">
                <thead>
                    <tr>
                        <th>Since</th>
                        <th>About</th>
                        <th>What</th>
                        <th>Who sees to it</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($open as $alarm)
                        <tr>
                            <td class="tight"><x-moment :at="$alarm->raised_at" :zone="$zone" :offset="false" /></td>
                            <td class="tight">{{ $alarm->sort->words() }}</td>
                            <td><a data-row href="{{ $alarm->page }}">{{ $alarm->words }}</a></td>
                            <td class="tight">
                                @if ($alarm->taken_at !== null)
                                    {{ $alarm->taker?->name }}, <x-moment :at="$alarm->taken_at" :zone="$zone" :offset="false" />
                                @elsecan('take', $alarm)
                                    <form class="my-0" method="post" action="/alarms/{{ $alarm->id }}">@csrf<button
                                            class="btn btn-sm btn-outline-primary">I see to it</button></form>
                                @else
                                    <span class="attention">nobody yet</span>
                                @endif
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        @if ($over->isNotEmpty())
            <details class="mt-3">
                <summary>Over: the last {{ count($over) }}</summary>
                <table class="list">
                    <tbody>
                        @foreach ($over as $alarm)
                            <tr>
                                <td class="tight"><x-moment :at="$alarm->raised_at" :zone="$zone" :offset="false" /></td>
                                <td class="tight muted">until <x-moment :at="$alarm->over_at" :zone="$zone" :offset="false" /></td>
                                <td>{{ $alarm->words }}</td>
                                <td class="tight">{{ $alarm->taker?->name }}</td>
                            </tr>
                        @endforeach
                    </tbody>
                </table>
            </details>
        @endif
    </main>
</x-layout>
