@if ($folders !== [])
    <table class="list w-auto mb-3">
        <thead>
            <tr>
                <th class="pe-4">Folder</th>
                <th class="num">Of what was picked, there now</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($folders as $folder => $count)
                <tr>
                    <td class="mono pe-4">{{ $folder }}</td>
                    <td class="num">{{ number_format($count) }}</td>
                </tr>
            @endforeach
        </tbody>
    </table>
@endif
