<ul class="plain-list mono small">
    @foreach ($told as $one)
        @if ($one['step'] !== 'alive')
            <li>{{ $one['step'] }} {{ $one['what'] }}</li>
        @endif
    @endforeach
</ul>
