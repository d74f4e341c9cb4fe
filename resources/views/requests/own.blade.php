@php($request = $view->request)
@php($run = $view->run())
<x-layout :title="'Request ' . $request->id" here="Desk">
    <main id="main" class="page" @if ($view->isMoving()) hx-get="/requests/{{ $request->id }}" hx-trigger="every 2s" hx-select="#main"
        hx-target="#main" hx-swap="outerHTML" @endif>
        <h1>{{ $request->summary }}</h1>
        <p class="order-shown" role="status">{{ $view->waitsForYes() ? 'It waits for a second person, who must say yes to it.'
            : $view->state() }}</p>
        <dl class="facts mb-3">
            <dt>Request</dt>
            <dd>{{ $request->id }}{{ $view->isWaitedFor() ? ',' : '' }}
                @if ($view->isWaitedFor())
                    <x-due :at="$request->due_at" :zone="$view->user->zone" />
                @endif
            </dd>
            @if ($view->workload() !== null)
                <dt>Is about</dt>
                <dd>{{ $view->workload() }}</dd>
            @endif
            @if ($request->lost !== null)
                <dt>What was lost</dt>
                <dd class="mono">{{ $request->lost }}</dd>
            @endif
            @if (! $view->isTheirDoing())
                <dt>Last good</dt>
                <dd>{{ $request->wanted_words === null ? '' : $request->wanted_words . ': ' }}
                    <x-moment :at="$request->wanted_at" :zone="$view->user->zone" />
                </dd>
            @endif
            <dt>Reason</dt>
            <dd>{{ $request->reason }}</dd>
            @if ($request->answer !== null)
                <dt>Your answer</dt>
                <dd>{{ $request->answer }}{{ $request->answer_words === null ? '' : ": {$request->answer_words}" }}</dd>
            @endif
            @if ($run !== null)
                <dt>What came of it</dt>
                <dd>{{ $view->came($run) }}
                    @foreach ($view->found($run) as $line)
                        <div class="muted small">{{ $line }}</div>
                    @endforeach
                </dd>
            @endif
        </dl>
        @if ($run !== null && $view->isReadyToDownload($run))
            <p><a class="btn btn-primary" id="download" href="/runs/{{ $run->id }}/download" download>Download
                    {{ $view->download($run) }}</a></p>
            <p class="muted">It is made while it is sent, and sent once.</p>
        @endif
        @foreach ($run === null ? [] : $view->handedOver($run) as $address => $words)
            <p><a class="btn btn-primary" href="{{ $address }}" hx-boost="false" download>Take {{ $words }}</a></p>
        @endforeach
        @if ($view->canAnswer)
            <form method="post" action="/requests/{{ $request->id }}/answer" class="mb-3">@csrf
                <h2 class="h6">Is it right?</h2>
                <div class="d-flex gap-2">
                    <label class="visually-hidden" for="words">In words</label>
                    <input class="form-control" id="words" name="words" maxlength="1000" placeholder="In words (needed for a no)">
                    <button class="btn btn-primary text-nowrap" name="answer" value="yes">Yes, close it</button>
                    <button class="btn btn-outline-primary text-nowrap" name="answer" value="no">No</button>
                </div>
            </form>
        @endif
        @if ($run !== null && $view->partOfKind($run) !== null)
            @include($view->partOfKind($run))
        @endif
        @if ($run !== null && $view->canPutBack($run))
            <details class="mb-3">
                <summary>Take it away again</summary>
                <form method="post" action="/runs/{{ $run->id }}/put-back" class="mt-2">@csrf
                    <p class="mb-1">What came back goes, and what it replaced is there again. What you changed since stays as it is.</p>
                    <button class="btn btn-outline-primary" id="put-back">Yes, take it away</button>
                </form>
            </details>
        @endif
        <p><a href="/" data-key="Backspace">To the desk</a></p>
    </main>
</x-layout>
