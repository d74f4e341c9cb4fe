@use('App\View\Asset')
<!doctype html>
<html lang="en">

<head>
    <meta charset="utf-8">
    <title>Too many tries · Kaiseki</title>
    <link rel="icon" href="data:,">
    <link rel="stylesheet" href="{{ Asset::url('app.css') }}">
</head>

<body>
    <header class="bar"><a class="brand" href="/">Kaiseki</a></header>
    <main class="page">
        <div class="narrow mx-auto">
            <h1>Too many tries</h1>
            <p>Wait a minute, then try again.</p>
            <p><a href="/">To the desk</a></p>
        </div>
    </main>
</body>

</html>
