@use('Kaiseki\Core\Files\Deed')
<table class="list">
    <thead>
        <tr>
            <th>Path below it</th>
            @if ($sheet->said->permissionsOnly)
                <th>What changes</th>
            @endif
            <th>What happens</th>
            @if (!$sheet->said->permissionsOnly)
                <th>Why</th>
                <th class="num">There now</th>
                <th class="num">Comes back</th>
            @endif
        </tr>
    </thead>
    <tbody>
        @foreach ($preview->lines as $line)
            <tr>
                <td><x-path :of="$line->path" />{{ $line->isFolder ? '/' : '' }}</td>
                @if ($sheet->said->permissionsOnly)
                    <td @if ($line->deed === Deed::Permitted) class="mono" @endif>{{ $line->because }}</td>
                @endif
                <td class="tight">{{ $line->deed->words() }}</td>
                @if (!$sheet->said->permissionsOnly)
                    <td>{{ $line->because }}{{ $line->presentIsNewer ? ', newer there' : '' }}</td>
                    <td class="num">
                        @if ($line->present !== null && !$line->isFolder)
                            <x-size :bytes="$line->present->size" />
                        @endif
                    </td>
                    <td class="num">
                        @if ($line->bytes > 0)
                            <x-size :bytes="$line->bytes" />
                        @endif
                    </td>
                @endif
            </tr>
        @endforeach
    </tbody>
</table>
