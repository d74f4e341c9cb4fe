@if ($run->state === 'done' && $run->isOwn() && $run->put_back_at === null)
    @include('kinds.items.folders-now', ['folders' => $run->outcome['folders'] ?? []])
@endif
@include('kinds.items.seen-as-user')
@if ($mailbox !== null)
    <details class="mb-3">
        <summary>See whether it is there as you see it</summary>
        <form method="post" action="/runs/{{ $run->id }}/seen" class="mt-2">@csrf
            <p class="mb-1">Kaiseki signs in to {{ $run->plan['server'] }} once as you, and looks. The password is kept nowhere; that you
                gave it stands in the trail, and what was seen in the proof.</p>
            <div class="d-flex gap-2"><label class="visually-hidden" for="mail-password">Your password of the mailbox</label>
                <input class="form-control w-auto" type="password" id="mail-password" name="password" size="30" maxlength="500"
                    autocomplete="off" placeholder="your password of {{ $mailbox }}" required>
                <button class="btn btn-outline-primary text-nowrap">Sign in and look</button></div>
        </form>
    </details>
@endif
