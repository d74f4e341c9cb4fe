@if ($of === 'facts')
    <dt>What it does</dt>
    <dd>{{ implode(' ', $approval->preview) }}</dd>
@endif
