@use('App\Kinds\KindIsMissing')
@if ($of === 'facts')
    <dt>What it does</dt>
    <dd class="attention">{{ KindIsMissing::words($approval->workload?->kind ?? '') }}</dd>
@endif
