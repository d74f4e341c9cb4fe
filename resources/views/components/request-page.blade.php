@use('App\View\RequestFrame')
@props(['frame', 'blockers', 'handSheet' => false, 'isLooked' => true])
@php($request = $frame->request)
<x-layout :title="'Request ' . $request->id" here="Desk">
    <main id="main" class="sheet" hx-boost="true" hx-target="#main" hx-select="#main" hx-swap="outerHTML show:none">
        @if (session('told') && request()->header('HX-Request'))
            <div class="told" role="status">{{ session('told') }}</div>
        @endif
        @if ($errors->any() && request()->header('HX-Request'))
            <div class="told wrong" role="alert">{{ $errors->first() }}</div>
        @endif
        <div class="request">
            <strong class="text-nowrap">Request {{ $request->id }}</strong>
            <span class="what" title="{{ $request->summary }}">{{ $request->summary }}</span>
            <span class="muted text-nowrap">{{ $request->requester->name }}</span>
            @if ($request->state === 'closed')
            <span class="due muted">closed</span>@else<x-due :at="$request->due_at" :zone="$frame->zone" />
            @endif
        </div>
        <h1 class="order">{{ $sentence }}</h1>
        <div class="work">
            <section class="picker" aria-label="{{ RequestFrame::PICKERS[$frame->picker][0] }}">{{ $slot }}</section>
            <aside class="slip" aria-label="Slip">{{ $slip }}</aside>
        </div>
        <div class="foot" id="foot">
            @if ($frame->canWork)
                <a id="to-preview" class="btn btn-outline-primary" data-key="p" href="{{ $frame->url('preview') }}">Preview
                    <kbd>p</kbd></a>
                @if ($blockers === [])
                    <a id="to-run" class="btn btn-primary" data-key="r" href="{{ $frame->url('run') }}">Run <kbd>r</kbd></a>
                    <span class="muted">{{ $isLooked ? 'No blockers.' : 'No blockers so far; the target is still to be looked at.' }}</span>
                @else
                    <a id="to-run" class="btn btn-primary disabled" aria-disabled="true" tabindex="-1"
                        href="{{ $frame->url('run') }}">Run <kbd>r</kbd></a>
                    <span class="attention blocker" title="{{ implode(' ', $blockers) }}">{{ $blockers[0] }}@if (count($blockers) > 1)
                            (and {{ count($blockers) - 1 }} more)
                        @endif
                    </span>
                @endif
                <span class="keys">
                    @foreach (RequestFrame::IN_ROW as $picker)
                        @php([$name, $key] = RequestFrame::PICKERS[$picker])
                        <a id="key-{{ $picker }}" href="{{ $frame->url($picker) }}" data-key="{{ $key }}"
                            @if ($frame->picker === $picker) aria-current="true" @endif>{{ $name }}
                            <kbd>{{ $key }}</kbd></a>
                    @endforeach
                    @if ($handSheet)
                        <a id="hand-sheet" hx-boost="false" href="/requests/{{ $request->id }}/hand-sheet">Hand sheet</a>
                    @endif
                    <a href="#keys" data-show-keys hx-boost="false">All keys <kbd>?</kbd></a>
                </span>
            @else
                <span
                    class="muted">{{ $request->state === 'closed' ? 'This request is closed.'
                        : 'An operator works on this request.' }}</span>
            @endif
        </div>
    </main>
</x-layout>
