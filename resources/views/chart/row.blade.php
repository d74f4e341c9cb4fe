@use('App\View\ChainChart')
@use('App\Words')
@php($set = $post->set)
@php($state = $chart->stateOf($set))
<td class="tight">
    {{ $set->level->words() }}@if ($post->standsFor > 1)
        <a class="muted text-decoration-underline"
            href="{{ $base }}{{ $chart->window->around($post) }}"
            title="Show them all">of {{ $post->standsFor }}{{ $post->hurt > 0 ? ", {$post->hurt} not whole" : '' }}</a>
    @endif
</td>
<td class="tight"><span
        class="{{ ['proven' => 'mark-proven', 'checked' => 'mark-checked', 'lost' => 'mark-failed'][$state] ?? '' }}">{{ $state }}</span>
</td>
<td class="num" title="{{ number_format($set->bytes) }} bytes">{{ Words::size($set->bytes) }}</td>
<td class="copies">
    @foreach ($set->copiesByStore() as $copy)
        <span class="text-nowrap"><span class="{{ $copy->state->isReadable() ? '' : 'mark-failed' }}"
                title="{{ $copy->because ?? ChainChart::stateWords($copy->state) }}">{{ $chart->copyWords($copy) }}</span>{{ $loop->last
                    ? '' : ',' }}</span>
    @endforeach
</td>
