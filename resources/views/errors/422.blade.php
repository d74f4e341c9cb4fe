@use('App\View\Asset')
<!doctype html>
<html lang="en">

<head>
    <meta charset="utf-8">
    <title>Not understood · Kaiseki</title>
    <link rel="icon" href="data:,">
    <link rel="stylesheet" href="{{ Asset::url('app.css') }}">
</head>

<body>
    <header class="bar"><a class="brand" href="/">Kaiseki</a></header>
    <main class="page">
        <div class="narrow mx-auto">
            <h1>Not understood</h1>
            <p>What was sent is none of what this page takes. Go back, and use its form.</p>
            <p><a href="/">To the desk</a></p>
        </div>
    </main>
</body>

</html>
