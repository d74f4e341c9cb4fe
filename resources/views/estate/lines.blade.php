<table class="list estate">
    <thead>
        <tr>
            <th>Workload</th>
            <th>Newest usable</th>
            <th class="num">Age</th>
            <th class="num">Promised</th>
            <th class="num">Whole restore</th>
            <th class="num">Promised</th>
            <th>Last proven</th>
            <th class="num">Open</th>
            <th>Two weeks</th>
            <th>To see to</th>
        </tr>
    </thead>
    <tbody>
        @foreach ($view->lines as $line)
            @include($line->kept->standing === null ? 'estate.untold' : 'estate.line')
        @endforeach
    </tbody>
</table>
{{ $view->lines->links() }}
