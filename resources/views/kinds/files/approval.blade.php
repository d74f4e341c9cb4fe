@use('App\Words')
@use('Kaiseki\Core\Catalog\Shown')
@use('Kaiseki\Core\Files\Deed')
@php($sheet = $view->sheet)
@if ($of === 'facts')
    @if ($sheet->target !== null)
        <dt>Into</dt>
        <dd class="mono">
            {{ $sheet->destination->host === null ? '' : $sheet->destination->host->name . ':' }}{{ Shown::name($sheet->target) }}
        </dd>
    @endif
    <dt>What it does</dt>
    <dd>
        @foreach ($approval->preview as $deed => $count)
            @if ($count['entries'] > 0)
                {{ number_format($count['entries']) }}
                {{ Deed::from($deed)->words() }}{{ $count['bytes'] > 0 ? ', ' . Words::size($count['bytes']) : '' }}<br>
            @endif
        @endforeach
    </dd>
@elseif (($preview = $sheet->preview(true)) !== null)
    @if ($preview->newer > 0)
        <p class="attention">{{ Words::count($preview->newer, 'thing') }} there changed later than what comes back.</p>
    @endif
    @if ($preview->untouched() > 0)
        <p class="muted mb-1">{{ Words::count($preview->untouched(), 'thing') }} there stay{{ $preview->untouched() === 1 ? 's as it is'
            : ' as they are' }}, and {{ $preview->untouched() === 1 ? 'is' : 'are' }} not listed.</p>
    @endif
    <div class="scroll short mb-3" tabindex="0" role="region" aria-label="What it does, thing by thing">
        @include('kinds.files.preview-lines')
        @if ($preview->fitting > count($preview->lines))
            <p class="muted">and {{ number_format($preview->fitting - count($preview->lines)) }} more</p>
        @endif
    </div>
@endif
