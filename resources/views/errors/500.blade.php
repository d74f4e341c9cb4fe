@use('App\View\Asset')
<!doctype html>
<html lang="en">

<head>
    <meta charset="utf-8">
    <title>Something went wrong · Kaiseki</title>
    <link rel="icon" href="data:,">
    <link rel="stylesheet" href="{{ Asset::url('app.css') }}">
</head>

<body>
    <header class="bar"><a class="brand" href="/">Kaiseki</a></header>
    <main class="page">
        <div class="narrow mx-auto">
            <h1>Something went wrong</h1>
            <p>It is written down in the log. What you did last may not have been done: look before you repeat it.</p>
            <p><a href="/">To the desk</a></p>
        </div>
    </main>
</body>

</html>
