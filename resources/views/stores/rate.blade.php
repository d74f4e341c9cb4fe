@use('App\Words')
@if ($measured === null)<span class="muted">not yet</span>@else<span
        title="{{ Words::count($measured->count, 'run') }}; most between {{ round($measured->low, 1) }} and {{ round($measured->high,
            1) }} MB/s">{{ round($measured->likely, 1) }}
        MB/s</span><x-trend :line="$past" :words="$past->ofRates()" />
@endif
