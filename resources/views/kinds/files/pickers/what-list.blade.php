@use('Handbooks\Safety')
@use('Kaiseki\Core\Catalog\Shown')
<form method="post" action="/requests/{{ $request->id }}/select">
    @csrf
    <label for="list">Paths, one to a line, or with commas between them</label>
    <textarea class="form-control mono mb-2" id="list" name="list" rows="7" maxlength="1000000"
        placeholder="/crew/rosters/2026/week-47-crew.csv&#10;S:Safety" data-focus>{{ old('list') }}</textarea>
    <button class="btn btn-primary" name="do" value="paste">Pick them</button>
</form>
@if (session('absent') !== null)
    <h3 class="h6 mt-3">Not in this point</h3>
    <table class="list">
        <thead>
            <tr>
                <th>As written</th>
                <th>The nearest that is there</th>
            </tr>
        </thead>
        <tbody>
            @foreach (session('absent') as [$written, $guess])
                <tr>
                    <td class="mono">{{ Shown::name($written) }}</td>
                    <td>
                        @if ($guess === null)
                        <span class="muted">nothing like it</span>@else<form method="post"
                                action="/requests/{{ $request->id }}/selection" class="m-0">@csrf<input type="hidden"
                                    name="path" value="{{ $guess }}"><button class="link" name="do"
                                    value="turn"><x-path :of="rawurldecode($guess)" /></button></form>
                        @endif
                    </td>
                </tr>
            @endforeach
        </tbody>
    </table>
@endif
