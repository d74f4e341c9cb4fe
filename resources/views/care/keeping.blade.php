@php($workload = $view->workload)
@php($zone = $view->zone)
<h2>Keeping</h2>
@php($rules = $view->rules())
@if ($rules->isEmpty())
    <p class="muted">No rule says what may expire, so everything stays.</p>
@else<table class="list">
        <tbody>
            @foreach ($rules as $rule)
                <tr>
                    <td class="tight">{{ $rule->store ?? 'all other stores' }}</td>
                    <td class="mono">{{ $rule->rule === '' ? 'nothing' : $rule->rule }}</td>
                    <td class="tight muted">{{ $rule->every_night ? 'by itself' : 'when somebody says so' }}</td>
                </tr>
            @endforeach
        </tbody>
    </table>
@endif
@if ($view->canTend)
    <form method="post" action="/workloads/{{ $workload->id }}/rules" class="line-form">@csrf<label class="muted"
            for="rule-store">on</label><select class="form-select w-auto" id="rule-store" name="store">
            <option value="">all other stores</option>
            @foreach ($view->ours() as $store)
                <option value="{{ $store->id }}">{{ $store->name }}</option>
            @endforeach
        </select>
        <label class="muted" for="rule">keep</label><input class="form-control mono" id="rule"
            name="rule" size="26" placeholder="everything"
            title="last=7 hourly=24 daily=14 weekly=8 monthly=12 yearly=5 within=30d" value="{{ old('rule') }}"
            autocomplete="off"> <label class="text-nowrap"><input type="checkbox" name="every_night"
                value="1"> by itself</label> <button class="btn btn-sm btn-outline-primary">Settle it</button>
    </form>
    <p class="muted small">Such as <span class="mono">last=7 daily=14 weekly=8 monthly=12 within=30d</span>:
        whatever one of them names stays, and all it needs.</p>
@endif
<div id="expiring">@include('care.expiring')</div>
@php($holds = $view->holds())
@if ($holds->isNotEmpty())
    <h3 class="h6 mt-3">Held</h3>
    <table class="list">
        <tbody>
            @foreach ($holds as $hold)
                <tr>
                    <td class="tight"><a data-row href="/sets/{{ $hold->set_id }}"><x-moment :at="$hold->set->captured_at"
                                :zone="$zone" :offset="false" /></a></td>
                    <td>{{ $hold->reason }}</td>
                    <td class="tight muted">
                        {{ $hold->until === null ? '' : 'until ' . $hold->until->setTimezone($zone)->format('j M Y') }}
                    </td>
                </tr>
            @endforeach
        </tbody>
    </table>
@endif
