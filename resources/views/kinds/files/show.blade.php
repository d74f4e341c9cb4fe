@php($sheet = $view->sheet)
@php($request = $view->request)
<x-layout :title="'Request '.$request->id" here="Desk">
<main id="main" class="sheet" hx-boost="true" hx-target="#main" hx-select="#main" hx-swap="outerHTML show:none">
@if (session('told') && request()->header('HX-Request'))<div class="told" role="status">{{ session('told') }}</div>@endif
@if ($errors->any() && request()->header('HX-Request'))<div class="told wrong" role="alert">{{ $errors->first() }}</div>@endif
<div class="request"><strong class="text-nowrap">Request {{ $request->id }}</strong><span class="what" title="{{ $request->summary }}">{{ $request->summary }}</span><span class="muted text-nowrap">{{ $request->requester->name }}</span>@if ($request->state === 'closed')<span class="due muted">closed</span>@else<x-due :at="$request->due_at" :zone="$view->zone" />@endif</div>
<h1 class="order">Put back <x-blank :view="$view" picker="what" :gap="$sheet->selection === [] || $sheet->absent !== []">{{ $sheet->whatInWords() }}</x-blank> from <x-blank :view="$view" picker="when" key="source" :gap="$request->workload === null">{{ $request->workload->name ?? 'a workload not settled yet' }}</x-blank> as it was on <x-blank :view="$view" picker="when" key="at" :gap="$sheet->point === null">{{ $sheet->point === null ? 'a moment with a usable point' : \App\Words::moment($sheet->point->captured_at, $view->zone, false) }}</x-blank>@if ($sheet->best !== null), each file from the newest point at which it is right,@endif into <x-blank :view="$view" picker="where" :gap="$sheet->destination->blocker !== null">{{ $sheet->destination->words }}</x-blank>, <x-blank :view="$view" picker="where" key="conflict">{{ $sheet->conflictInWords() }}</x-blank>, and check it by <x-blank :view="$view" picker="how">digest, size, mode and time</x-blank>.</h1>
<div class="work">
<section class="picker" aria-label="{{ ucfirst($view->picker) }}">@include($view->picker === 'proof' ? 'requests.proof' : 'kinds.files.pickers.'.$view->picker)</section>
@include('kinds.files.slip')
</div>
<div class="foot">
@if ($view->canWork)
<a id="to-preview" class="btn btn-outline-primary" data-key="p" href="{{ $view->url('preview') }}">Preview <kbd>p</kbd></a>
<a id="to-run" class="btn btn-primary @if ($sheet->blockers !== []) disabled @endif" @if ($sheet->blockers !== []) aria-disabled="true" tabindex="-1" @else data-key="r" @endif href="{{ $view->url('run') }}">Run <kbd>r</kbd></a>
@if ($sheet->blockers === [])<span class="muted">No blockers.</span>@else<span class="attention">{{ $sheet->blockers[0] }}@if (count($sheet->blockers) > 1) (and {{ count($sheet->blockers) - 1 }} more)@endif</span>@endif
<span class="keys">@foreach (['when' => ['When', 'w'], 'what' => ['What', 't'], 'where' => ['Where', 'd'], 'how' => ['How', 'h'], 'proof' => ['Proof', 'o']] as $picker => [$name, $key])<a id="key-{{ $picker }}" href="{{ $view->url($picker) }}" data-key="{{ $key }}" @if ($view->picker === $picker) aria-current="true" @endif>{{ $name }} <kbd>{{ $key }}</kbd></a>@endforeach @if ($sheet->reading !== null)<a id="hand-sheet" hx-boost="false" href="/requests/{{ $request->id }}/hand-sheet">Hand sheet</a>@endif<a href="#keys" data-show-keys hx-boost="false">All keys <kbd>?</kbd></a></span>
@else
<span class="muted">{{ $request->state === 'closed' ? 'This request is closed.' : 'An operator works on this request.' }}</span>
@endif
</div>
</main>
</x-layout>
