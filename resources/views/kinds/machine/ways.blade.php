@use('App\Words')
@php($lines = $view->ways())
@php($longest = $view->longestOf($lines))
<p class="hint">The ways side by side, for this machine at {{ $sheet->said->on }} now.</p>
<form method="post" action="/requests/{{ $request->id }}/machine">@csrf<input type="hidden" name="settle" value="way">
    <table class="list methods">
        <thead>
            <tr>
                <th>Way</th>
                <th>Touches</th>
                <th>Stands still</th>
                <th>Takes</th>
                <th class="num">Writes</th>
                <th>Is lost</th>
                <th>In the end</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($lines as $line)
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
                    <td class="text-nowrap">
                        @php($bar = $line->bar($longest))
                        <svg width="76" height="10" role="img" aria-label="{{ $line->timesInWords() }}">
                            <rect x="0" y="3" width="{{ $bar->goesOn }}" height="4" fill="currentColor" opacity="0.35" />
                            <rect x="{{ $bar->goesOn }}" y="0" width="{{ $bar->standsStill }}" height="10" fill="currentColor" />
                            <rect x="{{ $bar->goesOn + $bar->standsStill }}" y="3" width="{{ $bar->owed }}" height="4"
                                fill="currentColor" opacity="0.35" />
                        </svg>
                        <div>{{ Words::duration($line->times->goesOn + $line->times->standsStill) }}</div>
                        @if ($line->times->owed > 0)
                            <div class="muted small">then {{ Words::duration($line->times->owed) }} to settle</div>
                        @endif
                    </td>
                    <td class="num">{{ $line->writes }}</td>
                    <td>{{ $line->lost }}</td>
                    <td>{{ $line->end }}</td>
                </tr>
            @endforeach
        </tbody>
    </table>
    <p class="muted small mt-1 mb-0">Thin: work while the machine goes on. Thick: it stands still. From what runs took here.</p>
    <p class="mt-2"><label><input type="checkbox" name="part" value="1" @checked($sheet->said->part)> Also if blocks cannot be
            had: they are left as zeros, and listed in the proof</label></p>
    <button class="btn btn-primary">Settle it</button>
</form>
