<h2>What <kbd>t</kbd></h2>
@if ($sheet->point === null)
<p class="empty">Settle the moment first: there is no point to look into yet.</p>
@else
<p class="hint">As it was on <x-moment :at="$sheet->point->captured_at" :zone="$view->zone" />. <kbd>Enter</kbd> opens, <kbd>Space</kbd> picks, <kbd>u</kbd> goes up.</p>
@if ($request->lost !== null && $sheet->selection === [])
@php($guesses = $view->asked()->guesses())
<p class="mb-1">@if ($guesses === [])Asked for: <span class="mono">{{ $request->lost }}</span>. Nothing of that or a similar name is in this point; look around, or search <kbd>/</kbd>.@elseif (count($guesses) === 1)Asked for, and there:@else Asked for: <span class="mono">{{ $request->lost }}</span>. Not there under that path; these are the nearest:@endif</p>
<ul class="picked">@foreach ($guesses as $guess)<li><form method="post" action="/requests/{{ $request->id }}/selection">@csrf<input type="hidden" name="path" value="{{ rawurlencode($guess) }}"><button class="btn btn-sm btn-outline-primary" name="do" value="turn"><x-path :of="$guess" /></button></form></li>@endforeach</ul>
@endif
@php($was = $view->asked()->wasLastIn())
@if ($was !== null)
<form method="post" action="/requests/{{ $request->id }}/point" class="mb-2">@csrf<x-path :of="$was['path']" /> is not in this point; it was {{ $was['isLater'] ? 'first' : 'last' }} there on <x-moment :at="$was['set']->capturedAt()" :zone="$view->zone" />. <button id="take-point" class="btn btn-sm btn-outline-primary" name="set" value="{{ $was['set']->id }}">Take that point</button></form>
@endif
@if ($sheet->selection !== [])
<ul class="picked" aria-label="Picked">@foreach (array_slice($sheet->selection, 0, 12) as $path)<li class="@if (in_array($path, $sheet->absent, true)) attention @endif"><x-path :of="$path" />@if (in_array($path, $sheet->absent, true)) (not in this point)@endif<form method="post" action="/requests/{{ $request->id }}/selection">@csrf<input type="hidden" name="path" value="{{ rawurlencode($path) }}"><input type="hidden" name="folder" value="{{ rawurlencode($view->folder) }}"><button name="do" value="turn" aria-label="take out /{{ \Kaiseki\Core\Catalog\Shown::name($path) }}">take out</button></form></li>@endforeach
@if (count($sheet->selection) > 12)<li class="muted">and {{ count($sheet->selection) - 12 }} more</li>@endif
<li><form method="post" action="/requests/{{ $request->id }}/selection">@csrf<input type="hidden" name="path" value=""><input type="hidden" name="folder" value="{{ rawurlencode($view->folder) }}"><button name="do" value="clear">take all out</button></form></li></ul>
@endif
@php($crumbs = $view->crumbs())
<nav class="crumbs" aria-label="Folder">@foreach ($crumbs as $i => [$name, $path])@if ($loop->last)<strong>{{ \Kaiseki\Core\Catalog\Shown::name($name) }}</strong>@else<a id="crumb-{{ $i }}" href="{{ $view->url('what', '&folder='.rawurlencode($path)) }}" @if ($i === count($crumbs) - 2) data-key="Backspace" @endif>{{ \Kaiseki\Core\Catalog\Shown::name($name) }}</a> <span class="muted">/</span>@endif @endforeach
<form method="post" action="/requests/{{ $request->id }}/selection" class="ms-auto">@csrf<input type="hidden" name="path" value="{{ rawurlencode($view->folder) }}"><input type="hidden" name="folder" value="{{ rawurlencode($view->folder) }}"><button class="btn btn-sm btn-outline-primary" name="do" value="turn">{{ $view->isPickedItself($view->folder) ? 'Take this folder out' : 'Pick this whole folder' }}</button></form></nav>
@php([$all, $first, $last] = $view->extent())
@if ($all === 0)<p class="empty">This folder was empty.</p>
@else
<div class="scroll"><table class="list"><thead><tr><th class="tick"><span class="visually-hidden">Picked</span></th><th>Name</th><th class="num">Files</th><th class="num">Size</th><th>Changed</th><th>Mode</th></tr></thead><tbody>
@foreach ($view->children() as $child)
@php($shown = \Kaiseki\Core\Catalog\Shown::name($child->name))
<tr id="row-{{ substr(md5($child->path), 0, 12) }}" class="@if ($view->isPicked($child->path)) chosen @endif">
<td class="tick"><form method="post" action="/requests/{{ $request->id }}/selection" class="m-0">@csrf<input type="hidden" name="path" value="{{ rawurlencode($child->path) }}"><input type="hidden" name="folder" value="{{ rawurlencode($view->folder) }}"><input type="hidden" name="page" value="{{ $view->page }}"><button data-tick @if (! $child->isFolder()) data-row @endif name="do" value="turn" aria-pressed="{{ $view->isPicked($child->path) ? 'true' : 'false' }}" aria-label="Pick {{ $shown }}"></button></form></td>
<td>@if ($child->isFolder())<a data-row href="{{ $view->url('what', '&folder='.rawurlencode($child->path)) }}">{{ $shown }}/</a>@elseif ($child->version->isUnknown())<span class="mark-failed" title="Its content is in no archive that can be read">{{ $shown }}</span>@elseif ($child->version->kind === \Kaiseki\Core\Archive\EntryKind::File)<a class="text-reset" hx-boost="false" tabindex="-1" title="Take a copy, to look at it" href="/sets/{{ $sheet->point->id }}/file?path={{ rawurlencode($child->path) }}">{{ $shown }}</a>@else{{ $shown }}@if ($child->version->linkTarget !== '') <span class="muted">→ {{ \Kaiseki\Core\Catalog\Shown::name($child->version->linkTarget) }}</span>@endif @endif</td>
<td class="num">{{ $child->isFolder() ? number_format($child->files) : '' }}</td>
<td class="num"><x-size :bytes="$child->size()" /></td>
<td class="tight mono">{{ \Kaiseki\Core\Instant::ofMicroseconds(intdiv($child->version->mtime, 1000))->in($view->zone)->format('Y-m-d H:i') }}</td>
<td class="mono">{{ sprintf('%04o', $child->version->mode) }}</td></tr>
@endforeach
</tbody></table></div>
@if ($all > $last || $first > 1)<p class="mt-2">{{ number_format($first) }} to {{ number_format($last) }} of {{ number_format($all) }} @if ($first > 1)<a href="{{ $view->url('what', '&folder='.rawurlencode($view->folder).'&page='.($view->page - 1)) }}">earlier</a>@endif @if ($all > $last)<a href="{{ $view->url('what', '&folder='.rawurlencode($view->folder).'&page='.($view->page + 1)) }}">further</a>@endif</p>@endif
@endif
@endif
