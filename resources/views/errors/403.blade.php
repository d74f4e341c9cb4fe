@use('App\View\Asset')
<!doctype html>
<html lang="en">

<head>
    <meta charset="utf-8">
    <title>Not for you · Kaiseki</title>
    <link rel="icon" href="data:,">
    <link rel="stylesheet" href="{{ Asset::url('app.css') }}">
</head>

<body>
    <header class="bar"><a class="brand" href="/">Kaiseki</a></header>
    <main class="page">
        <div class="narrow mx-auto">
            <h1>Not for you</h1>
            <p>Your role does not allow this. An operator can do it, or ask one.</p>
            <p><a href="/">To the desk</a></p>
        </div>
    </main>
</body>

</html>
