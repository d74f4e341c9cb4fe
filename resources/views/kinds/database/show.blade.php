@php($request = $view->request)
@php($sheet = $view->sheet)
<x-layout :title="'Request '.$request->id" here="Desk">
<main id="main" class="sheet" hx-boost="true" hx-target="#main" hx-select="#main" hx-swap="outerHTML show:none">
@if (session('told') && request()->header('HX-Request'))<div class="told" role="status">{{ session('told') }}</div>@endif
@if ($errors->any() && request()->header('HX-Request'))<div class="told wrong" role="alert">{{ $errors->first() }}</div>@endif
<div class="request"><strong class="text-nowrap">Request {{ $request->id }}</strong><span class="what" title="{{ $request->summary }}">{{ $request->summary }}</span><span class="muted text-nowrap">{{ $request->requester->name }}</span>@if ($request->state === 'closed')<span class="due muted">closed</span>@else<x-due :at="$request->due_at" :zone="$view->zone" />@endif</div>
<h1 class="order">{{ $view->isByRows() ? ($sheet->order->way === 'reverse' ? 'Reverse' : 'Bring back') : 'Restore' }} <x-blank :view="$view" picker="what" :gap="$sheet->order === null">{{ $sheet->whatInWords() }}</x-blank> of <x-blank :view="$view" picker="when" key="source">{{ $sheet->workload->name }}</x-blank> <x-blank :view="$view" picker="when" key="at" :gap="$sheet->order === null">{{ $sheet->whenInWords($view->zone) }}</x-blank>@if (($sheet->order->skip ?? []) !== []), without <x-blank :view="$view" picker="how" key="skip">{{ implode(', ', $sheet->order->skip) }}</x-blank>,@endif {{ $view->isByRows() ? 'in' : 'into' }} <x-blank :view="$view" picker="where" :gap="$sheet->order === null">{{ $sheet->whereInWords() }}</x-blank>, <x-blank :view="$view" picker="how" key="way">{{ $sheet->touchesInWords() }}</x-blank>, and check it by rows, checksums and keys.</h1>
<div class="work">
<section class="picker" aria-label="{{ ucfirst($view->picker) }}">@include($view->picker === 'proof' ? 'requests.proof' : 'kinds.database.pickers.'.$view->picker)</section>
@include('kinds.database.slip')
</div>
<div class="foot">
@if ($view->canWork)
@php($blockers = $sheet->blockers())
<a id="to-preview" class="btn btn-outline-primary" data-key="p" href="{{ $view->url('preview') }}">Preview <kbd>p</kbd></a>
<a id="to-run" class="btn btn-primary @if ($blockers !== []) disabled @endif" @if ($blockers !== []) aria-disabled="true" tabindex="-1" @else data-key="r" @endif href="{{ $view->url('run') }}">Run <kbd>r</kbd></a>
@if ($blockers === [])<span class="muted">No blockers.</span>@else<span class="attention blocker" title="{{ implode(' ', $blockers) }}">{{ $blockers[0] }}@if (count($blockers) > 1) (and {{ count($blockers) - 1 }} more)@endif</span>@endif
<span class="keys">@foreach (['when' => ['When', 'w'], 'what' => ['What', 't'], 'where' => ['Where', 'd'], 'how' => ['How', 'h'], 'proof' => ['Proof', 'o']] as $picker => [$name, $key])<a id="key-{{ $picker }}" href="{{ $view->url($picker) }}" data-key="{{ $key }}" @if ($view->picker === $picker) aria-current="true" @endif>{{ $name }} <kbd>{{ $key }}</kbd></a>@endforeach @if ($sheet->reaches !== [])<a id="hand-sheet" hx-boost="false" href="/requests/{{ $request->id }}/hand-sheet">Hand sheet</a>@endif<a href="#keys" data-show-keys hx-boost="false">All keys <kbd>?</kbd></a></span>
@else
<span class="muted">{{ $request->state === 'closed' ? 'This request is closed.' : 'An operator works on this request.' }}</span>
@endif
</div>
</main>
</x-layout>
