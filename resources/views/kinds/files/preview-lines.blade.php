<table class="list">
    <thead>
        <tr>
            <th>Path below it</th>
            <th>What happens</th>
            <th>{{ $sheet->said->permissionsOnly ? 'What changes' : 'Why' }}</th>
            @if (!$sheet->said->permissionsOnly)
                <th class="num">There now</th>
                <th class="num">Comes back</th>
            @endif
        </tr>
    </thead>
    <tbody>
        @foreach ($preview->lines as $line)
            <tr>
                <td><x-path :of="$line->path" />{{ $line->isFolder ? '/' : '' }}</td>
                <td class="tight">{{ $line->deed->words() }}</td>
                <td>{{ $line->because }}{{ $line->presentIsNewer ? ', newer there' : '' }}</td>
                @if (!$sheet->said->permissionsOnly)
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
