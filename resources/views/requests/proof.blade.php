@php($run = $frame->run())
<h2>
    Proof</h2>
@if ($run === null)
    <p class="empty">Nothing was run yet. When a run has ended, what came back and how it was checked stands here.</p>
@else
    @include($run->view())
    @if ($frame->canAnswer && $run->state === 'done')
        <form method="post" action="/requests/{{ $request->id }}/answer" class="mt-3">@csrf
            <h3 class="h6">
                {{ $request->requester_id === auth()->id() ? 'Is it right?' : 'What does ' . $request->requester->name . ' say?' }}</h3>
            <div class="d-flex gap-2"><label class="visually-hidden" for="words">In words</label><input class="form-control"
                    id="words" name="words" maxlength="1000" placeholder="In words (needed for a no)"><button
                    class="btn btn-primary text-nowrap" name="answer" value="yes">Yes, close it</button><button
                    class="btn btn-outline-primary text-nowrap" name="answer" value="no">No</button></div>
        </form>
    @endif
@endif
@php($trail = $frame->trail())
<h3 class="h6 mt-4">What happened</h3>
<table class="list">
    <tbody>
        @foreach ($trail as $line)
            <tr>
                <td class="tight"><x-moment :at="$line->at" :zone="$frame->zone" :offset="false" /></td>
                <td>{{ $line->what }}</td>
                <td class="tight muted">{{ $line->user->name ?? 'by itself' }}</td>
            </tr>
        @endforeach
    </tbody>
</table>
