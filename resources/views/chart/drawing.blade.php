@use('App\View\ChainChart')
@use('App\View\ChartWindow')
@use('App\Words')
@php($ground = ChainChart::GROUND)
@php($width = ChainChart::WIDTH)
@php($wantedX = $chart->x($chart->wanted))
@php($wide = $chart->wide())
<svg class="chart" viewBox="0 0 {{ $width }} {{ ChainChart::HEIGHT }}" role="group"
    aria-label="Chain chart: {{ Words::count($chart->found,
        'set') }} of {{ $name }} over {{ $chart->window->inWords() }}. The table below has the same rows."
    data-chart data-from="{{ $chart->from->getTimestamp() }}" data-to="{{ $chart->to->getTimestamp() }}"
    data-margin="{{ ChainChart::MARGIN }}" data-narrowest="{{ ChartWindow::NARROWEST }}" data-widest="{{ ChartWindow::WIDEST }}">
    <defs>
        <pattern id="loss-hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <line class="loss-line" x1="0" y1="0" x2="0" y2="6" />
        </pattern>
        <clipPath id="chart-clip">
            <rect x="14" y="0" width="{{ $width - 28 }}" height="{{ ChainChart::HEIGHT }}" />
        </clipPath>
    </defs>
    <rect class="hit" x="0" y="0" width="{{ $width }}" height="{{ ChainChart::HEIGHT }}" data-pan />
    <line class="ground" x1="14" y1="{{ $ground }}" x2="{{ $width - 14 }}" y2="{{ $ground }}" />
    <g clip-path="url(#chart-clip)">
        <g data-moves>
            @if ($loss !== null && $loss['seconds'] > 0)
                @php($lost = $chart->loss($loss['from']))
                <rect class="loss" x="{{ $lost->x }}" y="22" width="{{ $lost->width }}" height="{{ $ground - 22 }}" />
            @endif
            @foreach ($chart->rails() as $rail)
                <path class="rail @if ($rail->isOwn) own @endif @if ($rail->isBroken) broken @endif"
                    d="{{ $rail->path }}" />
            @endforeach
            @foreach ($chart->newHistories() as $x)
                <g class="rebuilt">
                    <title>The source was rebuilt: a new history begins, and nothing after rests on what was before.</title>
                    <line x1="{{ $x - 2 }}" y1="{{ $ground - 108 }}" x2="{{ $x - 2 }}" y2="{{ $ground + 8 }}" />
                    <line x1="{{ $x + 1.5 }}" y1="{{ $ground - 108 }}" x2="{{ $x + 1.5 }}" y2="{{ $ground + 8 }}" />
                    <text class="label" x="{{ $x }}" y="{{ $ground - 112 }}">rebuilt</text>
                </g>
            @endforeach
            @foreach ($chart->labels() as $label)
                <line class="tick" x1="{{ $label->x }}" y1="{{ $ground }}" x2="{{ $label->x }}"
                    y2="{{ $ground + 4 }}" /><text class="label" x="{{ $label->x }}"
                    y="{{ $ground + 46 }}">{{ $label->text }}</text>
            @endforeach
            @foreach ($chart->posts as $post)
                @php($set = $post->set)
                @php($x = $post->x)
                @php($state = $chart->stateOf($set))
                @php($ribbon = $chart->ribbon($post))
                <g id="post-{{ $set->id }}"
                    class="post @if ($chart->isOwn($set)) own @endif @if ($chart->isChosen($set)) chosen @endif"
                    data-post="{{ $set->id }}" tabindex="{{ $chart->isChosen($set) || ($loop->last && !$hasChosen) ? 0 : -1 }}"
                    role="button"
                    aria-label="{{ $post->told }}, {{ $set->level->words() }}, {{ $state }}{{ $post->standsForInWords() }}">
                    <title>{{ $post->told }}, {{ $set->level->words() }}, {{ $state }}{{ $post->standsForInWords() }}
                    </title>
                    @if ($ribbon !== null)
                        <rect class="seg ribbon @if (!$set->isReadable()) gone @endif" x="{{ $ribbon->x }}"
                            y="{{ $ground - 6 }}" width="{{ $ribbon->width }}" height="5" />
                    @else
                        @foreach ($chart->segments($set) as $segment)
                            <rect class="seg @if ($segment->isGone) gone @endif" x="{{ $x - $wide / 2 }}"
                                y="{{ $segment->y }}" width="{{ $wide }}" height="{{ $segment->height }}"
                                rx="{{ $set->level->isSnapshot() ? $wide / 2 : 1 }}">
                                <title>{{ $segment->title }}</title>
                            </rect>
                        @endforeach
                    @endif
                    @if ($state === 'in part' || $state === 'lost' || $post->hurt > 0)
                        <line class="notch" x1="{{ $x - $wide / 2 - 4 }}" y1="{{ $ground - 24 }}" x2="{{ $x + $wide / 2 + 4 }}"
                            y2="{{ $ground - 14 }}" />
                    @endif
                    @if ($chart->isHeld($set))
                        <circle class="ring" cx="{{ $x }}" cy="{{ $ground - $chart->tall($set) - 9 }}" r="4" />
                    @endif
                    @if ($set->set->inDoubt)
                        <path class="doubt" d="M{{ $x - 4 }} {{ $ground - 32 }} q2 -4 4 0 t4 0" />
                    @endif
                    @if ($chart->mark($set) !== '')
                        <line class="under" x1="{{ $x - min(6, $wide) }}" y1="{{ $ground + 25 }}" x2="{{ $x + min(6, $wide) }}"
                            y2="{{ $ground + 25 }}" />
                    @endif
                    @if ($chart->mark($set) === 'proven')
                        <line class="under" x1="{{ $x - min(6, $wide) }}" y1="{{ $ground + 28 }}" x2="{{ $x + min(6, $wide) }}"
                            y2="{{ $ground + 28 }}" />
                    @endif
                    <rect class="hit" x="{{ $x - max(4, $wide / 2) }}" y="{{ $ground - 100 }}" width="{{ max(8, $wide) }}"
                        height="{{ 104 }}" />
                </g>
            @endforeach
            @if ($chart->showsWanted())
                <g class="grip"
                    @if ($canMove) data-wanted tabindex="0" role="slider" aria-label="Wanted moment; arrow keys move it"
                        aria-valuemin="{{ $chart->from->getTimestamp() }}" aria-valuemax="{{ $chart->to->getTimestamp() }}"
                        aria-valuenow="{{ $chart->wanted->getTimestamp() }}" aria-valuetext="{{ Words::moment($chart->wanted, $zone) }}"
                        @endif>
                    <line class="wanted" x1="{{ $wantedX }}" y1="10" x2="{{ $wantedX }}" y2="{{ $ground + 2 }}" />
                    @if ($canMove)
                        <path class="handle" d="M{{ $wantedX - 5 }} 4 h10 l-5 7 z" />
                        <rect class="hit" x="{{ $wantedX - 6 }}" y="2" width="12" height="{{ $ground }}" />
                    @endif
                    <text class="wanted-label" x="{{ $wantedX > 700 ? $wantedX - 8 : $wantedX + 8 }}" y="15"
                        @if ($wantedX > 700) text-anchor="end" @endif>{{ $canMove ? 'wanted' : 'now' }}
                        {{ $chart->wanted->setTimezone($zone)->format('D H:i') }}</text>
                </g>
            @endif
        </g>
    </g>
</svg>
