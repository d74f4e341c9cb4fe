<x-layout title="Your sessions">
    <main id="main" class="page">
        <h1>Where you are signed in</h1>
        <table class="list w-auto">
            <thead>
                <tr>
                    <th class="pe-4">Last used</th>
                    <th class="pe-4">From</th>
                    <th class="pe-4">Browser</th>
                    <th></th>
                </tr>
            </thead>
            <tbody>
                @foreach ($sessions as $session)
                    <tr>
                        <td class="tight pe-4"><x-moment :at="$session->lastAt" :zone="$zone" :offset="false" /></td>
                        <td class="mono pe-4">{{ $session->address }}</td>
                        <td class="pe-4">{{ $session->browser }}</td>
                        <td class="tight">
                            @if ($session->isThis)
                                <span class="muted">this one</span>
                            @else
                                <form class="my-0" method="post" action="/sessions">@csrf<button class="link" name="session"
                                        value="{{ $session->name }}">end it</button></form>
                            @endif
                        </td>
                    </tr>
                @endforeach
            </tbody>
        </table>
        @if (count($sessions) > 1)
            <form class="mt-3" method="post" action="/sessions">@csrf<button class="btn btn-outline-primary">End all
                    others</button></form>
        @endif
        <p class="muted mt-3">A session ends {{ config('session.lifetime') }} minutes after its last request, and
            {{ config('session.hours') }} hours after it was begun.</p>
    </main>
</x-layout>
