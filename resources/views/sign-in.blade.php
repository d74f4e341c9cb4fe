<x-layout title="Sign in">
    <main id="main" class="page">
        <div class="narrow mx-auto">
            <h1>Sign in</h1>
            <form method="post" action="/sign-in">
                @csrf
                <div class="mb-3"><label class="form-label" for="email">Address</label><input class="form-control" id="email"
                        name="email" type="email" autocomplete="username" value="{{ old('email') }}" required data-focus></div>
                <div class="mb-3"><label class="form-label" for="password">Password</label><input class="form-control" id="password"
                        name="password" type="password" autocomplete="current-password" required></div>
                <button class="btn btn-primary">Sign in</button>
            </form>
        </div>
    </main>
</x-layout>
