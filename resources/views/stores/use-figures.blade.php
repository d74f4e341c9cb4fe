<td class="num">{{ number_format($line->copies) }}</td>
<td class="num"><x-size :bytes="$line->bytes" /></td>
<td class="num tight"><x-growth :bytes="$line->growth(7)" /></td>
<td class="num tight"><x-growth :bytes="$line->growth(30)" /></td>
<td class="px-4"><x-trend :line="$line->trend()" :words="$line->trendInWords()" /></td>
