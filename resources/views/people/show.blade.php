@use('App\Models\Duty')
@use('App\Models\Role')
@use('App\Words')
<x-layout :title="$view->person->name" here="People">
    <main id="main" class="page">
        <p class="mb-1"><a data-key="Backspace" href="/people">People</a></p>
        <h1>{{ $view->person->name }} <span class="muted fw-normal">{{ $view->inWords() }}</span></h1>
        <p class="mono">{{ $view->person->email }}</p>
        @if ($view->person->locked_at !== null)
            <p class="attention">Locked since <x-moment :at="$view->person->locked_at" :zone="$view->viewer->zone" />: cannot sign in.</p>
        @endif
        <h2>Reaches</h2>
        @if ($view->reached === [])
            <p class="muted">No target: no order of theirs can name one.</p>
        @else
            <table class="list w-auto">
                <thead>
                    <tr>
                        <th class="pe-4">Target</th>
                        <th class="pe-4"></th>
                        <th class="pe-4">May</th>
                        <th>By the rule</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($view->reached as $reached)
                        <tr>
                            <td class="pe-4"><a data-row href="/rights/{{ $reached->target::sort() }}/{{ $reached->target->id() }}">
                                    {{ $reached->target->name() }}</a></td>
                            <td class="pe-4 muted">{{ $reached->target::sort() }}</td>
                            <td class="pe-4">{{ $reached->may() }}</td>
                            <td>{{ $reached->because() }}</td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        <h2>Sees</h2>
        @if ($view->seen === [])
            <p class="muted">No workload.</p>
        @else
            <p>
                @foreach ($view->seen as $group => $count)
                    {{ $group }} <span class="muted">({{ Words::count($count, 'workload') }})</span>{{ $loop->last ? '' : ', ' }}
                @endforeach
            </p>
        @endif
        @if ($view->mayChange())
            <h2>Change</h2>
            <form method="post" action="/people/{{ $view->person->id }}">@csrf
                <div class="line-form">
                    <label for="role">Role</label><select class="form-select w-auto" id="role" name="role">
                        @foreach (Role::cases() as $role)
                            <option value="{{ $role->value }}" @selected($view->person->role === $role)>{{ $role->value }}</option>
                        @endforeach
                    </select>
                    <label><input class="form-check-input" type="radio" name="sees" value="all"
                            @checked($view->person->workload_groups === null)> sees all groups</label>
                    <label><input class="form-check-input" type="radio" name="sees" value="some"
                            @checked($view->person->workload_groups !== null)> only</label>
                    @foreach ($view->groups as $group)
                        <label><input class="form-check-input" type="checkbox" name="groups[]" value="{{ $group }}"
                                @checked(in_array($group, $view->person->workload_groups ?? [], true))> {{ $group }}</label>
                    @endforeach
                </div>
                <div class="line-form">
                    @foreach (Duty::cases() as $duty)
                        <label><input class="form-check-input" type="checkbox" name="duties[]" value="{{ $duty->value }}"
                                @checked(in_array($duty->value, $view->person->duties, true))> may {{ $duty->words() }}
                            <span class="muted">(operators and approvers)</span></label>
                    @endforeach
                </div>
                <div class="line-form">
                    <label><input class="form-check-input" type="checkbox" name="locked" value="1"
                            @checked($view->person->locked_at !== null)> locked: cannot sign in</label>
                    <button class="btn btn-sm btn-primary">Settle</button>
                    <span class="muted">They are signed out at once, and sign in again.</span>
                </div>
            </form>
        @endif
    </main>
</x-layout>
