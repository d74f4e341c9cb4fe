@if ($of === 'facts')
    <dt>What it does</dt>
    <dd>
        @foreach ($approval->preview as $words)
            {{ $words }}<br>
        @endforeach
    </dd>
@endif
