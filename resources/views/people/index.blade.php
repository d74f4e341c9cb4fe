<x-layout title="People" here="People">
    <main id="main" class="page">
        <h1>People</h1>
        <table class="list w-auto">
            <thead>
                <tr>
                    <th class="pe-4">Name</th>
                    <th class="pe-4">Address</th>
                    <th class="pe-4">Role</th>
                    <th>Sees the groups</th>
                </tr>
            </thead>
            <tbody>
                @foreach ($people as $person)
                    <tr>
                        <td class="pe-4"><a data-row href="/people/{{ $person->id }}">{{ $person->name }}</a></td>
                        <td class="mono pe-4">{{ $person->email }}</td>
                        <td class="pe-4">{{ $person->role->value }} <span class="muted">{{ $person->dutiesInWords() }}</span></td>
                        <td>
                            @if ($person->locked_at !== null)
                                <span class="attention">locked: cannot sign in</span>
                            @elseif ($person->seesAllGroups())
                                all
                            @elseif ($person->groups() === [])
                                <span class="muted">none</span>
                            @else
                                {{ implode(', ', $person->groups()) }}
                            @endif
                        </td>
                    </tr>
                @endforeach
            </tbody>
        </table>
        {{ $people->links() }}
        <p class="muted mt-3">A new person, or another password, at a terminal: <span class="mono">php artisan kaiseki:user ADDRESS</span>
        </p>
    </main>
</x-layout>
