@use('App\Kinds\Items\Own\OwnRule')
<h2>People’s own</h2>
<p id="own-rule">
    @if ($rule === null)
        Only the desk brings back what is in these mailboxes.
    @else
        People look for and bring back what is in their own mailbox themselves: {{ $rule->words() }}.
    @endif
</p>
@if ($view->canTend)
    <form method="post" action="/workloads/{{ $workload->id }}/own-items" class="line-form">@csrf
        <label class="muted" for="most-items">items at once</label><input class="form-control mono" id="most-items" name="most_items"
            size="6" inputmode="numeric" value="{{ old('most_items', $rule->most_items ?? OwnRule::ITEMS) }}">
        <label class="muted" for="most-mb">MB at once</label><input class="form-control mono" id="most-mb" name="most_mb" size="6"
            inputmode="numeric" value="{{ old('most_mb', $rule->most_mb ?? OwnRule::MB) }}">
        <button class="btn btn-sm btn-outline-primary" name="do" value="allow">{{ $rule === null ? 'Let them' : 'Settle it' }}</button>
        @if ($rule !== null)
            <button class="link" name="do" value="end">only the desk again</button>
        @endif
    </form>
@endif
