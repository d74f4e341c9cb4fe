@php($closed = $view->closed())
@if ($closed->isNotEmpty())
    <h2>Closed lately</h2>
    <table class="list">
        <tbody>
            @foreach ($closed as $request)
                <tr>
                    <td class="tight"><a data-row href="/requests/{{ $request->id }}">{{ $request->id }}</a></td>
                    <td>{{ $request->summary }}</td>
                    <td class="tight">{{ $request->requester->name }}</td>
                    <td class="tight muted">closed <x-moment :at="$request->closed_at" :zone="$view->user->zone" /></td>
                </tr>
            @endforeach
        </tbody>
    </table>
@endif
