@use('App\Models\Role')
@use('App\View\Asset')
@use('App\View\Places')
@props(['title', 'here' => ''])
<!doctype html>
<html lang="en">

<head>
    <meta charset="utf-8">
    <meta name="viewport" content="width=device-width, initial-scale=1">
    <meta name="htmx-config"
        content='{"includeIndicatorStyles":false,"allowEval":false,"scrollIntoViewOnBoost":false,"refreshOnHistoryMiss":true}'>
    <title>{{ $title }} · Kaiseki</title>
    <link rel="icon" href="data:,">
    <link rel="stylesheet" href="{{ Asset::url('app.css') }}">
    <script src="{{ Asset::url('htmx.js') }}" defer></script>
    <script src="{{ Asset::url('app.js') }}" type="module"></script>
</head>

<body>
    <a class="skip" href="#main">Skip to the work</a>
    <div id="at-work" role="status" hidden><span class="visually-hidden">At work</span></div>
    <header class="bar">
        <a class="brand" href="/">Kaiseki</a>
        @auth
            <nav aria-label="Main">
                @foreach (Places::of(auth()->user()) as $url => $name)
                    <a href="{{ $url }}" @if ($here === $name) aria-current="page" @endif>{{ $name }}</a>
                @endforeach
            </nav>
            <div class="end">
                <span class="mono muted"><span
                        data-clock="{{ auth()->user()->zone }}">{{ now()->setTimezone(auth()->user()->zone)->format('H:i') }}</span>
                    UTC{{ now()->setTimezone(auth()->user()->zone)->format('P') }} &ensp;<span
                        data-clock="UTC">{{ now()->format('H:i') }}</span> UTC</span>
                @if (auth()->user()->role !== Role::Administrator)
                    <form action="/search" role="search"><input class="form-control" id="search" name="q"
                            placeholder="Search everything  /" aria-label="Search everything"
                            value="{{ request()->is('search') ? request('q') : '' }}"></form>
                @endif
                <form action="/sign-out" method="post">@csrf<a href="/sessions" title="{{ auth()->user()->role->value }}: where you are
                        signed in">{{ auth()->user()->name }}</a> <button class="plain">sign out</button></form>
            </div>
        @endauth
    </header>
    @if (session('told'))
        <div class="told" role="status">{{ session('told') }}</div>
    @endif
    @if ($errors->any())
        <div class="told wrong" role="alert">
            @foreach ($errors->all() as $message)
                {{ $message }}
            @endforeach
        </div>
    @endif
    {{ $slot }}
    @auth
        <dialog id="keys" aria-labelledby="keys-title">
            <h2 id="keys-title" class="h6">Keys</h2>
            <dl>
                @foreach ([
                    '/' => 'search', 'j  k' => 'down and up in a list', 'Enter' => 'open what is in hand',
                    'Space' => 'pick what is in hand',
                    'Backspace  u' => 'up one folder, or back', 'w t d h o' => 'When, What, Where, How, Proof', 'p' => 'Preview',
                    'r' => 'Run (asks first)', '+  - [ ] 0' => 'chart: nearer, farther, earlier, later, back',
                    '←  →' => 'chart: from post to post; on the wanted moment: moves it', 'n' => 'new request (on the desk)',
                    'f' => 'to the field that filters', 'x' => 'take out what was picked already', '?' => 'these keys',
                ] as $key => $does)
                    <dt>
                        @foreach (explode(' ', $key) as $one)
                            @if ($one !== '')
                                <kbd>{{ $one }}</kbd>
                            @endif
                        @endforeach
                    </dt>
                    <dd>{{ $does }}</dd>
                @endforeach
            </dl>
            <p class="mt-3 mb-0"><button class="btn btn-outline-primary" data-close>Close</button></p>
        </dialog>
    @endauth
</body>

</html>
