<h2>Run <kbd>r</kbd></h2>
@php($approval = $view->openApproval())
@if ($sheet->blockers !== [])
<p class="hint">It cannot run yet:</p>
<ul>@foreach ($sheet->blockers as $blocker)<li class="attention">{{ $blocker }}</li>@endforeach</ul>
@else
<p>{{ $sheet->sentence($view->zone) }}</p>
@if ($sheet->target !== null)<p class="mono">{{ $sheet->destination->host === null ? '' : $sheet->destination->host->name.':' }}{{ \Kaiseki\Core\Catalog\Shown::name($sheet->target) }}</p>@endif
@php($preview = $sheet->destination->isInUse() ? $sheet->preview(true) : null)
@if ($preview === null || $preview->present === 0)<p>Nothing that is there now will be touched.</p>
@else<p class="attention">{{ \App\Words::count($preview->present, 'thing stands', 'things stand') }} there already: @foreach ($preview->counts as $deed => $count)@if ($count['entries'] > 0 && ! in_array($deed, ['added', 'left-alone'], true)){{ number_format($count['entries']) }} {{ \Kaiseki\Core\Files\Deed::from($deed)->words() }}; @endif @endforeach <a href="{{ $view->url('preview') }}">see each</a>.</p>@endif
@foreach ($preview->open ?? [] as $line)<p class="attention mb-1"><x-path :of="$line->path" /> is open for writing in {{ $line->openIn }}.</p>@endforeach
@php($needs = $sheet->needsApproval())
@if ($approval !== null)
<p class="attention">{{ $approval->asker->name }} asked for approval <x-moment :at="$approval->asked_at" :zone="$view->zone" />; nobody has answered yet. <a href="/approvals/{{ $approval->id }}">Look at it</a></p>
@if ($approval->order !== $sheet->fingerprint())<p class="attention">The order, or what stands in its target, is another now: ask again.</p>@endif
@endif
<form method="post" action="/requests/{{ $request->id }}/start" class="inline mb-2">@csrf<label for="starts-at">It begins</label><input class="form-control mono w-auto" id="starts-at" name="starts_at" size="22" maxlength="60" placeholder="at once" title="Empty for at once, or 2026-11-24 22:30" value="{{ $request->starts_at?->setTimezone($view->zone)->format('Y-m-d H:i P') }}" autocomplete="off"><button class="btn btn-sm btn-outline-primary">Set</button><span class="muted">{{ $request->starts_at === null ? 'or at a time of yours' : \App\Words::moment($request->starts_at, $view->zone) }}</span></form>
<form method="post" action="/requests/{{ $request->id }}/run">@csrf<input type="hidden" name="order" value="{{ $sheet->fingerprint() }}">@if ($sheet->canSaveFirst())<p><label><input type="checkbox" name="set_first" value="1" @checked(($preview->present ?? 0) > 0)> Make a set of what is there now before that</label></p>@endif
@if ($needs)<p>{{ $request->workload->name }} is marked so that replacing anything in place waits for a second person.</p>@endif
<button id="confirm" class="btn btn-primary" data-focus>{{ $needs ? ($approval === null ? 'Ask for approval' : 'Ask again') : ($sheet->destination->isDownload() ? 'Yes, make it ready' : ($request->starts_at === null ? 'Yes, run it now' : 'Yes, run it then')) }}</button> <a class="btn" data-key="Backspace" href="{{ $view->url('when') }}">Not yet</a></form>
@if ($needs)
<details class="mt-3" @if ($errors->has('reason')) open @endif><summary>Nobody answers, and it cannot wait</summary>
<form method="post" action="/requests/{{ $request->id }}/run" class="mt-2">@csrf<input type="hidden" name="order" value="{{ $sheet->fingerprint() }}"><input type="hidden" name="set_first" value="{{ $sheet->canSaveFirst() ? 1 : 0 }}">
<p class="attention mb-1">It is ordered under your name, an alarm is raised at once,
it begins {{ $request->workload->override_wait_min }} min later unless somebody stops it,
and it stays listed on every desk until somebody else has reviewed it.</p>
<label for="reason">Reason</label><div class="d-flex gap-2"><input class="form-control" id="reason" name="reason" minlength="10" maxlength="1000" required><button class="btn btn-outline-primary text-nowrap">Run without approval</button></div></form></details>
@endif
@endif
