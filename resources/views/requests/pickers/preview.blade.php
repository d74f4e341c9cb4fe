<h2>Preview <kbd>p</kbd></h2>
@if ($sheet->reading === null || $sheet->target === null)
<p class="empty">Pick something and say where it goes; then what the run would do stands here.</p>
@else
@php($present = $sheet->present(1000))
<p class="hint">Into <span class="mono">{{ \Kaiseki\Core\Catalog\Shown::name($sheet->target) }}</span>, as it is now.</p>
<dl class="facts mb-3">
<dt>Comes back</dt><dd>{{ \App\View\Words::count($sheet->reading->entries, 'entry', 'entries') }}, of which {{ \App\View\Words::count($sheet->reading->files, 'file') }} with {{ \App\View\Words::size($sheet->reading->bytes) }}</dd>
<dt>Is new there</dt><dd>{{ number_format(max(0, $sheet->reading->files - count($present))) }} {{ count($present) >= 1000 ? 'or fewer' : '' }}</dd>
<dt>Stands there</dt><dd>{{ count($present) >= 1000 ? 'over 1,000' : number_format(count($present)) }}{{ $present === [] ? '' : ', '.['beside' => 'each left as it is, the restored one beside it under a dated name', 'rename-present' => 'each renamed', 'missing-only' => 'each left as it is, the restored one left out', 'replace' => 'each set aside unless it is the same'][$request->conflict] }}</dd>
@if ($sheet->reading->missing > 0)<dt class="attention">Can't come</dt><dd class="attention">{{ number_format($sheet->reading->missing) }}: their content is in no archive that can be read</dd>@endif
</dl>
@if ($present !== [])
<div class="scroll"><table class="list"><thead><tr><th>Stands there now</th><th>Is</th><th class="num">Size now</th></tr></thead><tbody>
@foreach (array_slice($present, 0, 300) as $row)<tr><td><x-path :of="$row['path']" /></td><td>{{ $row['newer'] ? 'newer' : 'older or the same' }}</td><td class="num"><x-size :bytes="$row['size']" /></td></tr>@endforeach
</tbody></table></div>
@endif
@endif
