@php($back = $run->outcome['put_back'] ?? null)
@if (($back['state'] ?? '') === 'asked')
<p id="put-back" class="attention" role="status" hx-get="{{ url()->current() }}?show=proof" hx-select="#put-back" hx-target="#put-back" hx-swap="outerHTML" hx-trigger="every 2s">It is being put back.</p>
@elseif (($back['state'] ?? '') === 'done')
<div id="put-back"><p class="mb-1">It was put back{{ $run->put_back_at === null ? '' : ' on '.\App\Words::moment($run->put_back_at, auth()->user()->zone) }}: {{ \App\Words::count($back['removed'], 'thing') }} that it had placed went, {{ number_format($back['returned']) }} that it had replaced came back.</p>
@if ($back['left'] !== [])<p class="attention mb-1">Left as somebody changed it since:</p><ul class="plain-list">@foreach (array_slice($back['left'], 0, 50) as $left)<li><span class="mono">/{{ $left['path'] }}</span>: {{ $left['because'] }}</li>@endforeach</ul>@endif
@if ($back['kept'] !== [])<p class="mb-1">What somebody changed since is kept as:</p><ul class="plain-list">@foreach (array_slice($back['kept'], 0, 50) as $kept)<li class="mono">/{{ $kept }}</li>@endforeach</ul>@endif</div>
@elseif (($back['state'] ?? '') === 'failed')
<p id="put-back" class="attention">It could not be put back: {{ $back['because'] }}</p>
@endif
@if ($run->canBePutBack() && ($back['left'] ?? []) === [])@can('stop', $run)
<details class="mt-2"><summary>Put it back</summary>
<form method="post" action="/runs/{{ $run->id }}/put-back" class="mt-2">@csrf
<p class="mb-1">What this run placed is removed, and what it replaced comes back, with the times it had. What somebody has changed since is left, and named here.</p>
<p class="mb-1"><label><input type="checkbox" name="also_changed" value="1"> Put back also what was changed since; the changed one is kept beside it under another name</label></p>
<button class="btn btn-sm btn-outline-primary" id="do-put-back">Yes, undo run {{ $run->id }}</button></form></details>
@if ($run->set_aside_until !== null)<form method="post" action="/runs/{{ $run->id }}/set-aside" class="mt-1">@csrf<button class="link">Keep the set-aside {{ \App\Runs\SetAsides::DAYS }} days longer</button></form>@endif
@endcan @endif
