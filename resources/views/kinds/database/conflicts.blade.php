{{-- $conflicts: table, key and because of each row that was changed since. --}}
<div class="scroll short" tabindex="0" role="region" aria-label="Rows that were changed since">
    <table class="list">
        <tbody>
            @foreach ($conflicts as $line)
                <tr>
                    <td class="mono">{{ $line['table'] }}</td>
                    <td class="mono">
                        @foreach ($line['key'] as $column => $value)
                            {{ $column }} = {{ $value ?? 'NULL' }}
                        @endforeach
                    </td>
                    <td>{{ $line['because'] }}</td>
                </tr>
            @endforeach
        </tbody>
    </table>
</div>
