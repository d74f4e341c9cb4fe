@php($zone = auth()->user()->zone)
<x-layout title="Waits for a second person" here="Desk">
    <main id="main" class="page">
        <h1>{{ $consent->title() }}</h1>
        <p class="order-shown">{{ $consent->words }}</p>
        <dl class="facts mb-3">
            <dt>Workload</dt>
            <dd>
                <a class="text-decoration-underline" href="/workloads/{{ $consent->workload_id }}/care"
                    data-key="Backspace">{{ $consent->workload->name }}</a>, marked so that this needs two people
            </dd>
            <dt>Asked by</dt>
            <dd>{{ $consent->asker->name }}, <x-moment :at="$consent->asked_at" :zone="$zone" /></dd>
            @if ($consent->decided_at !== null && $consent->state !== 'withdrawn')
                <dt>Decided by</dt>
                <dd>{{ $consent->decider?->name }}, <x-moment :at="$consent->decided_at" :zone="$zone" />
                    {{ $consent->decision_words === null ? '' : "with the words: {$consent->decision_words}" }}</dd>
            @endif
        </dl>
        @if ($consent->state === 'asked')
            @can('decide', $consent)
                <form method="post" action="/consents/{{ $consent->id }}">@csrf
                    <input type="hidden" name="seen" value="{{ $consent->fingerprint() }}">
                    <label for="words">In words (needed for a no)</label>
                    <div class="d-flex gap-2">
                        <input class="form-control" id="words" name="words" maxlength="1000">
                        <button class="btn btn-primary text-nowrap" name="do" value="approve">Yes, do it</button>
                        <button class="btn btn-outline-primary text-nowrap" name="do" value="refuse">Refuse</button>
                    </div>
                </form>
            @elsecan('withdraw', $consent)
                <form method="post" action="/consents/{{ $consent->id }}">@csrf
                    <p class="muted">You asked for it: somebody else must decide.
                        <button class="link" name="do" value="withdraw">Withdraw it</button>
                    </p>
                </form>
            @else
                <p class="muted">One of the two people must be an approver.</p>
            @endcan
        @endif
    </main>
</x-layout>
