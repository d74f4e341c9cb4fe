@use('App\Kinds\Databases\Page\TransactionStrip')
@use('App\Words')
@php($ground = TransactionStrip::GROUND)
@php($width = TransactionStrip::WIDTH)
@php($height = TransactionStrip::HEIGHT)
@php($stems = $strip->stems())
<svg class="strip" viewBox="0 0 {{ $width }} {{ $height }}" role="group"
    aria-label="{{ Words::count(count($strip->all),
        'transaction') }} in {{ Words::duration($strip->minutes * 60) }}. The table below has the same rows.">
    <defs>
        <pattern id="strip-hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <line class="loss-line" x1="0" y1="0" x2="0" y2="6" />
        </pattern>
    </defs>
    <line class="ground" x1="14" y1="{{ $ground }}" x2="{{ $width - 14 }}" y2="{{ $ground }}" />
    @php($lostFrom = $strip->lostFromX())
    @if ($lostFrom !== null)
        <rect class="lost" x="{{ $lostFrom }}" y="14" width="{{ max(0, $width - 14 - $lostFrom) }}"
            height="{{ $ground + 16 }}" />
    @endif
    @foreach ($strip->gaps() as $gap)
        <g class="gap">
            <title>{{ $gap->because }}</title>
            <line x1="{{ $gap->from }}" y1="{{ $ground }}" x2="{{ max($gap->from + 3, $gap->to) }}"
                y2="{{ $ground }}" /><text class="label" x="{{ ($gap->from + $gap->to) / 2 }}" y="{{ $ground - 6 }}">no
                log</text>
        </g>
    @endforeach
    @foreach ($strip->labels($frame->zone) as $label)
        <line class="tick" x1="{{ $label->x }}" y1="{{ $height - 15 }}" x2="{{ $label->x }}" y2="{{ $height - 11 }}" />
        <text class="label" x="{{ $label->x }}" y="{{ $height - 1 }}">{{ $label->text }}</text>
    @endforeach
    @foreach ($stems as $stem)
        @php($one = $stem->transaction)
        <a href="#transaction-{{ $one->gtid }}" data-to-row="transaction-{{ $one->gtid }}" tabindex="-1"
            class="stem @if ($stem->isLost) after @endif @if ($stem->suspicion !== null) odd @endif">
            <title>{{ $one->gtid }}, {{ $one->moment() }}: {{ number_format($one->rows()) }}
                rows{{ $stem->standsFor > 1 ? ', the heaviest of ' . $stem->standsFor : '' }}.
                {{ $stem->suspicion->reason ?? mb_strimwidth($one->statement, 0, 120, '…') }}</title>
            @if ($one->isDefinition)
                <path class="definition" d="M{{ $stem->x }} {{ $ground - 6 }} l5 6 l-5 6 l-5 -6 z" />
            @endif
            @if ($stem->up > 0)
                <line x1="{{ $stem->x }}" y1="{{ $ground - 1 }}" x2="{{ $stem->x }}"
                    y2="{{ $ground - 1 - $stem->up }}" />
            @endif
            @if ($stem->down > 0)
                <line x1="{{ $stem->x }}" y1="{{ $ground + 1 }}" x2="{{ $stem->x }}"
                    y2="{{ $ground + 1 + $stem->down }}" />
            @endif
        </a>
    @endforeach
    @php($gate = $strip->gateX())
    @if ($gate !== null)
        <g class="gate" aria-label="Stop">
            <line x1="{{ $gate }}" y1="12" x2="{{ $gate }}" y2="{{ $ground + 30 }}" /><text
                x="{{ $gate > 640 ? $gate - 5 : $gate + 5 }}" y="11" @if ($gate > 640) text-anchor="end" @endif>stops
                here; hatched is lost</text>
        </g>
    @endif
</svg>
