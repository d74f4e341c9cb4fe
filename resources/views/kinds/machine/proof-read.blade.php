<tr>
    <th>Read</th>
    <td class="mono">
        @foreach ($disk['read'] as $set => $store)
            {{ $set }} from {{ $store }}<br>
        @endforeach
    </td>
</tr>
@if ($disk['missing'] > 0)
    <tr>
        <th>Zeros instead</th>
        <td>{{ number_format($disk['missing']) }} blocks, from the bytes
            {{ implode(', ', array_map(number_format(...), array_slice($disk['missing_at'], 0, 50))) }}{{ $disk['missing'] > 50
                ? ' ...' : '' }}
        </td>
    </tr>
@endif
