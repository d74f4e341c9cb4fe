<div class="scroll below-chart">
    <table class="list">
        <thead>
            <tr>
                <th>Point</th>
                <th>Level</th>
                <th>State</th>
                <th class="num">Written</th>
                <th>Copies</th>
                <th>Why, or why not</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($rows as $row)
                @php($post = $row->post)
                <tr id="point-{{ $post->set->id }}" data-of-post="{{ $post->set->id }}"
                    class="@if ($chart->isChosen($post->set)) chosen @elseif (!$chart->isOwn($post->set)) off @endif">
                    <td class="tight"><button class="row-pick" data-row name="{{ $field }}" value="{{ $post->set->id }}"
                            title="{{ $post->set->name }}"><time class="mono" datetime="{{ $post->utc }}"
                                title="{{ $post->utc }}">{{ $post->shortly() }}</time></button></td>
                    @include('chart.row')
                    <td>{{ $row->why }}</td>
                </tr>
            @endforeach
        </tbody>
    </table>
    @if ($chart->posts === [])
        <p class="empty">
            @if ($chart->window->levels !== [] || $chart->window->state !== '')
                No set of this span passes the filters.
            @else
                No set was made in this span. Show more time with −, or set another moment.
            @endif
        </p>
    @endif
</div>
