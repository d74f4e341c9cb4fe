@php($ground = \App\View\ChainChart::GROUND)
@php($wantedX = $chart->x($chart->wanted))
<svg class="chart" viewBox="0 0 {{ \App\View\ChainChart::WIDTH }} {{ \App\View\ChainChart::HEIGHT }}" role="img" aria-label="Chain chart: the sets of {{ $request->workload->name }} over {{ $chart->days }} days. The table below has the same rows.">
<defs><pattern id="loss-hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><line class="loss-line" x1="0" y1="0" x2="0" y2="6"/></pattern></defs>
@if ($sheet->point !== null && $sheet->lossSeconds() > 0)@php($pointX = max(26, $chart->x($sheet->point->captured_at)))<rect class="loss" x="{{ $pointX }}" y="22" width="{{ max(0, $wantedX - $pointX) }}" height="{{ $ground - 22 }}"/>@endif
@foreach ($chart->rails() as $rail)<path class="rail @if ($rail['own']) own @endif" d="{{ $rail['path'] }}"/>@endforeach
<line class="ground" x1="14" y1="{{ $ground }}" x2="{{ \App\View\ChainChart::WIDTH - 14 }}" y2="{{ $ground }}"/>
@foreach ($chart->sets as $set)
@php($x = $chart->x($set->captured_at))
@php($wide = $chart->wide())
<g class="post @if ($chart->isOwn($set)) own @endif"><title>{{ \App\View\Words::moment($set->captured_at, $view->zone) }}, {{ \Kaiseki\Core\Chain\Level::of($set->level)->words() }}, {{ $chart->stateOf($set) }}</title>
@foreach ($chart->segments($set) as $segment)<rect class="seg @if ($segment['gone']) gone @endif" x="{{ $x - $wide / 2 }}" y="{{ $segment['y'] }}" width="{{ $wide }}" height="{{ $segment['height'] }}" rx="1"><title>{{ $segment['title'] }}</title></rect>@endforeach
@if ($chart->stateOf($set) === 'in part' || $chart->stateOf($set) === 'lost')<line class="notch" x1="{{ $x - $wide / 2 - 4 }}" y1="{{ $ground - 24 }}" x2="{{ $x + $wide / 2 + 4 }}" y2="{{ $ground - 14 }}"/>@endif
@if ($chart->mark($set) !== '')<line class="under" x1="{{ $x - 6 }}" y1="{{ $ground + 25 }}" x2="{{ $x + 6 }}" y2="{{ $ground + 25 }}"/>@endif
@if ($chart->mark($set) === 'proven')<line class="under" x1="{{ $x - 6 }}" y1="{{ $ground + 28 }}" x2="{{ $x + 6 }}" y2="{{ $ground + 28 }}"/>@endif
</g>
@endforeach
<line class="wanted" x1="{{ $wantedX }}" y1="10" x2="{{ $wantedX }}" y2="{{ $ground + 2 }}"/>
<text class="wanted-label" x="{{ $wantedX > 700 ? $wantedX - 6 : $wantedX + 6 }}" y="18" @if ($wantedX > 700) text-anchor="end" @endif>wanted {{ $chart->wanted->setTimezone($view->zone)->format('D H:i') }}</text>
@foreach ($chart->days() as $day)<text class="label" x="{{ $day['x'] }}" y="{{ $ground + 46 }}">{{ $day['text'] }}</text>@endforeach
</svg>
