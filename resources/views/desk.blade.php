<x-layout title="Desk" here="Desk">
    <main id="main" class="page">
        @include('desk.waiting')
        @include('desk.requests')
        @can('see-estate')
            @include('desk.running')
        @endcan
        @include('desk.closed')
    </main>
</x-layout>
