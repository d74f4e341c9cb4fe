<h2>Run <kbd>r</kbd></h2>
@if ($sheet->blockers !== [])
<p class="hint">It cannot run yet:</p>
<ul>@foreach ($sheet->blockers as $blocker)<li class="attention">{{ $blocker }}</li>@endforeach</ul>
@else
<p>{{ $sheet->sentence($view->zone) }}</p>
<p class="mono">{{ \Kaiseki\Core\Catalog\Shown::name($sheet->target) }}</p>
@php($present = $sheet->present())
<p class="@if ($present !== []) attention @endif">@if ($present === [])Nothing that is there now will be touched.@else{{ count($present) >= 200 ? 'More than 200' : count($present) }} of the files stand there already: {{ ['beside' => 'they are left, and the restored ones get dated names beside them.', 'rename-present' => 'they get dated names, and the restored ones take their places.', 'missing-only' => 'they are left, and not restored.', 'replace' => 'they are replaced. What is replaced goes to the set-aside and can be put back.'][$request->conflict] }}@endif</p>
<form method="post" action="/requests/{{ $request->id }}/run">@csrf<input type="hidden" name="order" value="{{ $sheet->fingerprint() }}">@if ($sheet->canSaveFirst())<p><label><input type="checkbox" name="set_first" value="1" @checked($present !== [])> Make a set of what is there now before that</label></p>@endif <button id="confirm" class="btn btn-primary" data-focus>Yes, run it now</button> <a class="btn" data-key="Backspace" href="{{ $view->url('when') }}">Not yet</a></form>
@endif
