<x-layout :title="$title">
    <main id="main" class="page">
        <h1>{{ $title }}</h1>
        <p class="attention">{{ $words }}</p>
        <p><a href="{{ url()->previous() }}">Back</a>, or <a href="/">to the desk</a>.</p>
    </main>
</x-layout>
