@use('App\Kinds\Files\Page\WhatView')
@use('Kaiseki\Core\Catalog\Shown')
@php($what = $view->what())
<div class="headed">
    <h2>What <kbd>t</kbd></h2>
    <nav class="ways" aria-label="Ways to pick">
        @foreach (WhatView::WAYS as $by => $words)
            <a id="by-{{ $by }}" href="{{ $what->url($by) }}"
                @if ($what->by === $by) aria-current="true" @endif>{{ $words }}</a>
        @endforeach
    </nav>
</div>
@if ($sheet->point === null)
    <p class="empty">Settle the moment first: there is no point to look into yet.</p>
@else
    <p class="hint">As it was on <x-moment :at="$sheet->point->captured_at" :zone="$frame->zone" />. @if ($what->by === 'browse')
            <kbd>Enter</kbd> opens, <kbd>Space</kbd> picks, <kbd>u</kbd> goes up, <kbd>f</kbd> to type a name.
        @endif
    </p>
    <x-left-out :is="$what->leftOut()" :lost="$request->lost ?? ''" />
    @if ($request->lost !== null && $sheet->selection === [])
        @php($guesses = $view->asked()->guesses())
        <p class="mb-1">
            @if ($guesses === [])
                Asked for:
                <span class="mono">{{ $request->lost }}</span>. Nothing of that or a similar name is in this point; look around, or
                search <kbd>/</kbd>.
            @elseif (count($guesses) === 1)
                Asked for, and there:
            @else
                Asked for: <span class="mono">{{ $request->lost }}</span>. Not there under that path; these are the nearest:
            @endif
        </p>
        <ul class="picked">
            @foreach ($guesses as $guess)
                <li>
                    <form method="post" action="/requests/{{ $request->id }}/selection">@csrf<input type="hidden" name="path"
                            value="{{ rawurlencode($guess) }}"><button class="btn btn-sm btn-outline-primary" name="do"
                            value="turn"><x-path :of="$guess" /></button></form>
                </li>
            @endforeach
        </ul>
    @endif
    @php($binned = $what->inBin())
    @if ($binned !== null && $what->by !== 'bin')
        <p class="attention mb-1"><x-path :of="$binned->path" /> lies in the bin of the host, deleted <x-moment :at="$binned->deletedAt"
                :zone="$frame->zone" />. <a class="text-decoration-underline" href="{{ $what->url('bin') }}">Look at it first</a></p>
    @endif
    @php($was = $view->asked()->wasLastIn())
    @if ($was !== null)
        <form method="post" action="/requests/{{ $request->id }}/point" class="mb-2">@csrf<x-path :of="$was->path" /> is not in
            this point; it was {{ $was->isLater ? 'first' : 'last' }} there on <x-moment :at="$was->set->capturedAt()"
                :zone="$frame->zone" />.
            <button id="take-point" class="btn btn-sm btn-outline-primary" name="set" value="{{ $was->set->id }}">Take that
                point</button>
        </form>
    @endif
    @if ($sheet->isPickedAsAsked)
        <p class="mb-1">Picked already, since it was asked for and is there; <kbd>x</kbd> takes it out.</p>
    @endif
    @if ($sheet->selection !== [])
        <ul class="picked" aria-label="Picked">
            @foreach (array_slice($sheet->selection, 0, 12) as $path)
                <li class="@if (in_array($path, $sheet->absent, true)) attention @endif"><x-path :of="$path" />
                    @if (in_array($path, $sheet->absent, true))
                        (not in this point)
                    @endif
                    <form method="post" action="/requests/{{ $request->id }}/selection">@csrf<input type="hidden" name="path"
                            value="{{ rawurlencode($path) }}"><input type="hidden" name="folder"
                            value="{{ rawurlencode($what->folder) }}"><button name="do" value="turn"
                            @if ($sheet->isPickedAsAsked) data-key="x" @endif
                            aria-label="take out /{{ Shown::name($path) }}">take out</button></form>
                </li>
            @endforeach
            @if (count($sheet->selection) > 12)
                <li class="muted">and {{ count($sheet->selection) - 12 }} more</li>
            @endif
            <li>
                <form method="post" action="/requests/{{ $request->id }}/selection">@csrf<input type="hidden" name="path"
                        value=""><input type="hidden" name="folder" value="{{ rawurlencode($what->folder) }}"><button
                        name="do" value="clear">take all out</button></form>
            </li>
        </ul>
    @endif
    @php($beside = $what->besidePicked())
    @if ($beside !== [])
        <form method="post" action="/requests/{{ $request->id }}/selection" class="mb-2">@csrf<input type="hidden" name="path"
                value=""><input type="hidden" name="folder" value="{{ rawurlencode($what->folder) }}">The library keeps a record of
            what is picked, and versions of before.
            <button class="btn btn-sm btn-outline-primary" name="do" value="with-record">Pick these too</button></form>
    @endif
    @include('kinds.files.pickers.what-' . $what->by)
@endif
