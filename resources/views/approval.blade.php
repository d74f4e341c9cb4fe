@php($approval = $view->approval)
@php($zone = $view->user->zone)
<x-layout :title="'Approval ' . $approval->id" here="Desk">
    <main id="main" class="page">
        <h1>{{ ['asked' => 'To be approved', 'approved' => 'Approved', 'refused' => 'Refused', 'withdrawn' => 'Withdrawn',
            'overridden' => $approval->isToBeReviewed() ? 'Begun without approval: to be reviewed'
            : 'Begun without approval, reviewed'][$approval->state] }}
        </h1>
        <p class="order-shown">{{ $view->sentence() }}</p>
        <dl class="facts mb-3">
            <dt>Request</dt>
            <dd><a href="/requests/{{ $approval->request_id }}" data-key="Backspace">{{ $approval->request_id }}</a>:
                {{ $approval->request->summary }}</dd>
            <dt>Reason</dt>
            <dd>{{ $approval->request->reason }}</dd>
            <dt>{{ $approval->state === 'overridden' ? 'Begun by' : 'Asked by' }}</dt>
            <dd>{{ $approval->asker->name }}, <x-moment :at="$approval->asked_at" :zone="$zone" /></dd>
            @include($view->part(), ['of' => 'facts'])
            @if ($approval->set_first)
                <dt>Before that</dt>
                <dd>a set is made of what is there now</dd>
            @endif
            @if ($approval->decided_at !== null && $approval->state !== 'withdrawn')
                <dt>{{ $approval->state === 'overridden' ? 'Because' : 'Decided by' }}</dt>
                <dd>{{ $approval->state === 'overridden' ? $approval->words : $approval->decider?->name . ($approval->words === null ? ''
                    : ': ' . $approval->words) }}
                </dd>
            @endif
            @if ($approval->reviewed_at !== null)
                <dt>Reviewed by</dt>
                <dd>{{ $approval->reviewer?->name }}, <x-moment :at="$approval->reviewed_at" :zone="$zone" />: {{ $approval->review_words }}
                </dd>
            @endif
            @if ($approval->run_id !== null)
                <dt>Run</dt>
                <dd><a href="/runs/{{ $approval->run_id }}">{{ $approval->run_id }}</a></dd>
            @endif
        </dl>
        @if ($approval->state === 'asked')
            @if (!$view->isSame())
                <p class="attention">The order, or what stands in its target, is another by now. It must be asked for again.</p>
            @else
                @include($view->part(), ['of' => 'things'])
            @endif
            @if ($view->canDecide)
                <form method="post" action="/approvals/{{ $approval->id }}">@csrf
                    <input type="hidden" name="seen" value="{{ $approval->order }}">
                    <label for="words">In words (needed for a no)</label>
                    <div class="d-flex gap-2"><input class="form-control" id="words" name="words" maxlength="1000">
                        @if ($view->isSame())
                            <button class="btn btn-primary text-nowrap" name="do" value="approve">Approve, and run it</button>
                        @endif
                        <button class="btn btn-outline-primary text-nowrap" name="do" value="refuse">Refuse</button>
                    </div>
                </form>
            @elsecan('withdraw', $approval)
                <form method="post" action="/approvals/{{ $approval->id }}">@csrf<p class="muted">{{ $view->decides() }}
                        <button class="link" name="do" value="withdraw">Withdraw it</button></p>
                </form>
            @endif
        @elseif ($approval->isToBeReviewed() && $view->canDecide)
            @if ($view->isStillWaiting())
                <form method="post" action="/runs/{{ $approval->run_id }}/stop" class="mb-3">@csrf
                    <p class="attention">It begins <x-moment :at="$approval->run->starts_at" :zone="$zone" />.
                        Until then nothing is touched, and it can be stopped.
                        <button class="btn btn-sm btn-outline-primary">Stop it</button>
                    </p>
                </form>
            @endif
            <form method="post" action="/approvals/{{ $approval->id }}">@csrf<label for="words">What you found</label>
                <div class="d-flex gap-2"><input class="form-control" id="words" name="words" maxlength="1000" required
                        data-focus><button class="btn btn-primary text-nowrap" name="do" value="review">Reviewed</button></div>
            </form>
        @endif
    </main>
</x-layout>
