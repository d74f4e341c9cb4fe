@if ($of === 'facts')
<dt>What it does</dt>
<dd class="attention">{{ \App\Kinds\KindIsMissing::words($approval->workload?->kind ?? '') }}</dd>
@endif
