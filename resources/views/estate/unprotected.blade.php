<h2 id="unprotected">Not protected</h2>
<form method="post" action="/sources">@csrf
    <table class="list w-auto">
        <thead>
            <tr>
                @if ($view->canTakeUp())
                    <th></th>
                @endif
                <th class="pe-4">
                    Host</th>
                <th class="pe-4">Group</th>
                <th>What becomes of it</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($view->unprotected as $source)
                <tr>
                    @if ($view->canTakeUp())
                        <td class="pe-2"><input type="checkbox" name="sources[]" value="{{ $source->name }}"
                                aria-label="Take up {{ $source->name }}"></td>
                    @endif
                    <td class="tight pe-4">
                        {{ $source->name }}</td>
                    <td class="tight pe-4">{{ $source->group }}</td>
                    <td>
                        @if ($source->hasRule)
                        <span class="muted">the rule of its group takes it up within a minute</span>@else<span
                                class="attention">its group has no rule, so nobody protects it</span>
                        @endif
                    </td>
                </tr>
            @endforeach
        </tbody>
    </table>
    @if ($view->canTakeUp())
        <p class="mt-2"><button class="btn btn-sm btn-outline-primary">Take up those picked</button> <span
                class="muted">A group gets a rule with <span class="mono">bin/kaiseki schedule
                    --group=…</span></span></p>
    @endif
</form>
