<x-layout title="Your password">
    <main id="main" class="page">
        <div class="narrow mx-auto">
            <h1>Your password, once more</h1>
            <p>What you are about to do cannot be undone, or gives rights. Nothing was done yet.</p>
            <form method="post" action="/password">
                @csrf
                <div class="mb-3"><label class="form-label" for="password">Password</label><input class="form-control" id="password"
                        name="password" type="password" autocomplete="current-password" required data-focus></div>
                <button class="btn btn-primary">Go on</button>
            </form>
        </div>
    </main>
</x-layout>
