<h2>Run <kbd>r</kbd></h2>
@php($approval = $view->openApproval())
@php($blockers = $sheet->blockers())
@if ($blockers !== [])
<p class="hint">It cannot run yet:</p>
<ul>@foreach ($blockers as $blocker)<li class="attention">{{ $blocker }}</li>@endforeach</ul>
@else
<p>{{ $sheet->sentence($view->zone) }}</p>
@php($lost = $sheet->lost())
@if ($sheet->order->isInPlace())<p class="attention">{{ implode(', ', $sheet->order->schemas) }} on {{ $sheet->order->server }} is replaced{{ $sheet->order->tables === null ? '' : ' in the tables '.implode(', ', $sheet->order->tables) }}. {{ $lost['transactions'] === 0 ? '' : \App\Words::count($lost['transactions'], 'transaction').' after the stop will not be in it.' }} What is there now is kept aside for {{ \App\Runs\SetAsides::DAYS }} days, and can be put back.</p>
@elseif ($view->isByRows())<p class="attention">Rows of live tables are changed, in one transaction, each compared first. <a href="{{ $view->url('preview') }}">See which</a>. It can be put back.</p>
@else<p>Nothing that is there now will be touched.</p>@endif
@foreach ($sheet->checks()->lines as $line)@if ($line['result'] === 'note')<p class="mb-1"><strong>{{ ucfirst($line['check']) }}</strong>: {{ $line['detail'] }}</p>@endif @endforeach
@php($needs = $sheet->needsApproval())
@if ($approval !== null)<p class="attention">{{ $approval->asker->name }} asked for approval <x-moment :at="$approval->asked_at" :zone="$view->zone" />; nobody has answered yet. <a href="/approvals/{{ $approval->id }}">Look at it</a></p>@endif
<form method="post" action="/requests/{{ $request->id }}/start" class="inline mb-2">@csrf<label for="starts-at">It begins</label><input class="form-control mono w-auto" id="starts-at" name="starts_at" size="22" maxlength="60" placeholder="at once" value="{{ $request->starts_at?->setTimezone($view->zone)->format('Y-m-d H:i P') }}" autocomplete="off"><button class="btn btn-sm btn-outline-primary">Set</button></form>
<form method="post" action="/requests/{{ $request->id }}/run">@csrf<input type="hidden" name="order" value="{{ $sheet->fingerprint() }}">
@if ($needs)<p>{{ $sheet->workload->name }} is marked so that changing anything in place waits for a second person.</p>@endif
<button id="confirm" class="btn btn-primary" data-focus>{{ $needs ? ($approval === null ? 'Ask for approval' : 'Ask again') : ($request->starts_at === null ? 'Yes, run it now' : 'Yes, run it then') }}</button> <a class="btn" data-key="Backspace" href="{{ $view->url('when') }}">Not yet</a></form>
@if ($needs)
<details class="mt-3" @if ($errors->has('reason')) open @endif><summary>Nobody answers, and it cannot wait</summary>
<form method="post" action="/requests/{{ $request->id }}/run" class="mt-2">@csrf<input type="hidden" name="order" value="{{ $sheet->fingerprint() }}">
<p class="attention mb-1">It is ordered under your name, an alarm is raised at once,
it begins {{ $request->workload->override_wait_min }} min later unless somebody stops it,
and it stays listed on every desk until somebody else has reviewed it.</p>
<label for="reason">Reason</label><div class="d-flex gap-2"><input class="form-control" id="reason" name="reason" minlength="10" maxlength="1000" required><button class="btn btn-outline-primary text-nowrap">Run without approval</button></div></form></details>
@endif
@endif
