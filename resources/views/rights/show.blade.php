@use('App\Models\Role')
@use('App\Models\Right')
<x-layout :title="$view->target->name()" here="Rights">
    <main id="main" class="page">
        <p class="mb-1"><a data-key="Backspace" href="/rights">Rights</a></p>
        <h1>{{ $view->target->name() }} <span class="muted fw-normal">{{ $view->target::sort() }}</span></h1>
        <p class="mono">{{ $view->target->whereabouts() }}</p>
        <h2>Who reaches it</h2>
        @if ($view->people === [])
            <p class="attention">Nobody: no order can name it.</p>
        @else
            <table class="list w-auto">
                <thead>
                    <tr>
                        <th class="pe-4">Person</th>
                        <th class="pe-4">May</th>
                        <th>By the rule</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($view->people as $reached)
                        <tr>
                            <td class="pe-4"><a data-row href="/people/{{ $reached->person->id }}">{{ $reached->person->name }}</a></td>
                            <td class="pe-4">{{ $reached->may() }}</td>
                            <td>{{ $reached->because() }}</td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        <h2>Rules</h2>
        @if ($view->rules !== [])
            <table class="list w-auto">
                <thead>
                    <tr>
                        <th class="pe-4">Group</th>
                        <th class="pe-4">Role</th>
                        <th class="pe-4">May</th>
                        <th></th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($view->rules as $rule)
                        <tr>
                            <td class="pe-4">{{ $rule->group }}</td>
                            <td class="pe-4">{{ $rule->role->value }}</td>
                            @can('administer')
                                <td class="pe-4" colspan="2">
                                    <form class="line-form my-0" method="post" action="{{ $view->url() }}">@csrf
                                        <input type="hidden" name="group" value="{{ $rule->group }}">
                                        <input type="hidden" name="role" value="{{ $rule->role->value }}">
                                        @foreach (Right::cases() as $right)
                                            <label><input class="form-check-input" type="checkbox" name="may[]"
                                                    value="{{ $right->value }}" @checked($rule->gives($right))> {{ $right->value }}</label>
                                        @endforeach
                                        <button class="btn btn-sm btn-outline-primary" name="do" value="give">Settle</button>
                                        <button class="link" name="do" value="take">take the rule away</button>
                                    </form>
                                </td>
                            @else
                                <td class="pe-4">{{ Right::words($rule->rights()) }}</td>
                                <td></td>
                            @endcan
                        </tr>
                    @endforeach
                </tbody>
            </table>
        @endif
        @can('administer')
            <form class="line-form mt-3" method="post" action="{{ $view->url() }}">@csrf
                <label for="group">Another rule: group</label><input class="form-control" id="group" name="group" list="groups"
                    size="18" maxlength="60" required value="{{ old('group') }}" autocomplete="off">
                <datalist id="groups">
                    @foreach ($view->groups as $group)
                        <option value="{{ $group }}"></option>
                    @endforeach
                </datalist>
                <label class="visually-hidden" for="role">Role</label><select class="form-select w-auto" id="role" name="role">
                    @foreach (Role::withRights() as $role)
                        <option value="{{ $role->value }}" @selected(old('role') === $role->value)>{{ $role->value }}s</option>
                    @endforeach
                </select>
                @foreach (Right::cases() as $right)
                    <label><input class="form-check-input" type="checkbox" name="may[]" value="{{ $right->value }}"
                            @checked(in_array($right->value, (array) old('may', []), true))> {{ $right->value }}</label>
                @endforeach
                <button class="btn btn-sm btn-primary" name="do" value="give">Add</button>
            </form>
        @endcan
        <p class="muted mt-3">Read: what lies there may be read. Write: orders may bring something there, sets and copies may be written to
            it. Tend: cartridges are moved, and it is settled how it is read back and what is kept there. Of each person the groups count
            that they see, and their role.</p>
    </main>
</x-layout>
