<!doctype html>
<html lang="en">

<head>
    <meta charset="utf-8">
    <title>Proof of run {{ $evidence['run'] ?? '' }}</title>
    @include('runs.proof-style')
</head>

<body>
    <h1>Proof of run {{ $evidence['run'] ?? '' }}</h1>
    @if (!$sound)
        <p class="bad">The signature does not fit what is written here: it was changed.</p>
    @endif
    <p>What can read it is not installed here. This is what was signed:</p>
    <pre class="mono">{{ json_encode($evidence, JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE) }}</pre>
</body>

</html>
