@use('App\View\Asset')
<!doctype html>
<html lang="en">

<head>
    <meta charset="utf-8">
    <title>Not here · Kaiseki</title>
    <link rel="icon" href="data:,">
    <link rel="stylesheet" href="{{ Asset::url('app.css') }}">
</head>

<body>
    <header class="bar"><a class="brand" href="/">Kaiseki</a></header>
    <main class="page">
        <div class="narrow mx-auto">
            <h1>Not here</h1>
            <p>There is nothing at this address. It may have been typed wrongly, or what it named is gone.</p>
            <p><a href="/">To the desk</a></p>
        </div>
    </main>
</body>

</html>
