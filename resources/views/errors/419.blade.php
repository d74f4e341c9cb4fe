@use('App\View\Asset')
<!doctype html>
<html lang="en">

<head>
    <meta charset="utf-8">
    <title>The page was open too long · Kaiseki</title>
    <link rel="icon" href="data:,">
    <link rel="stylesheet" href="{{ Asset::url('app.css') }}">
</head>

<body>
    <header class="bar"><a class="brand" href="/">Kaiseki</a></header>
    <main class="page">
        <div class="narrow mx-auto">
            <h1>The page was open too long</h1>
            <p>Go back, load it again, and repeat what you did.</p>
            <p><a href="/">To the desk</a></p>
        </div>
    </main>
</body>

</html>
