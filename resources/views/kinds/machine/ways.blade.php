<p class="hint">The ways side by side, for this machine at {{ $sheet->said->on }} now.</p>
<form method="post" action="/requests/{{ $request->id }}/machine">@csrf<input type="hidden" name="settle" value="way">
    <table class="list methods">
        <thead>
            <tr>
                <th>Way</th>
                <th>Touches</th>
                <th>Stands still</th>
                <th class="num">Writes</th>
                <th>Is lost</th>
                <th>In the end</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($view->ways() as $line)
                <tr class="@if ($line->isChosen) chosen @endif @if ($line->because !== null) off @endif">
                    <td><label><input type="radio" name="way" value="{{ $line->way->value }}" @checked($line->isChosen)
                                @disabled($line->because !== null)
                                @if ($line->isChosen) data-focus @endif> {{ $line->title }}</label>
                        @if ($line->because !== null)
                            <div class="small attention">{{ $line->because }}</div>
                        @endif
                    </td>
                    <td>{{ $line->touches }}</td>
                    <td>{{ $line->standsStill }}</td>
                    <td class="num text-nowrap">{{ $line->writes }}</td>
                    <td>{{ $line->lost }}</td>
                    <td>{{ $line->end }}</td>
                </tr>
            @endforeach
        </tbody>
    </table>
    <p class="mt-2"><label><input type="checkbox" name="part" value="1" @checked($sheet->said->part)> Also if blocks cannot be
            had: they are left as zeros, and listed in the proof</label></p>
    <button class="btn btn-primary">Settle it</button>
</form>
