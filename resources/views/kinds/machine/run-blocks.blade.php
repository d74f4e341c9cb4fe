<td class="num">{{ number_format($disk['blocks']) }}</td>
<td class="num">{{ $disk['bridged'] === 0 ? '' : number_format($disk['bridged']) }}</td>
<td class="num @if ($disk['missing'] > 0) attention @endif">
    {{ $disk['missing'] === 0 ? '' : number_format($disk['missing']) }}</td>
