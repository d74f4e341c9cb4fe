@use('App\Words')
@php($lines = $view->ways())
@php($longest = max(array_map(fn ($line) => $line->seconds(), $lines) ?: [0]))
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
                        @php([$goesOn, $standsStill, $owed] = $line->bar($longest, 72))
                        <svg width="76" height="10" role="img"
                            aria-label="{{ Words::duration($line->times->goesOn) }} while it goes on,
                                {{ Words::duration($line->times->standsStill) }} still, {{ Words::duration($line->times->owed) }} owed">
                            <rect x="0" y="3" width="{{ round($goesOn, 1) }}" height="4" fill="currentColor" opacity="0.35" />
                            <rect x="{{ round($goesOn, 1) }}" y="0" width="{{ round($standsStill, 1) }}" height="10" fill="currentColor" />
                            <rect x="{{ round($goesOn + $standsStill, 1) }}" y="3" width="{{ round($owed, 1) }}" height="4"
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
