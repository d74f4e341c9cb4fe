@use('App\Words')
<h2>
    What <kbd>t</kbd></h2>
@php($look = $view->tableLook())
@php($asked = $view->askedTable())
@if ($look !== null)
    @php($table = $view->tableFound($look))
    <p class="hint"><a class="text-decoration-underline" href="{{ $frame->url('what') }}" data-key="Backspace">All tables</a> /
        <span class="mono">{{ $asked['table'] }}</span>
        {{ $sheet->whenInWords($frame->zone) }}</p>
    <x-look id="table-found" :look="$look" :zone="$frame->zone" :action="$view->lookUrl()"
        :url="$frame->url('what', '&' . http_build_query($asked))" :asked="['look' => 'table', 'show' => 'what'] + $asked">
        @if ($table->problem !== null)
            <p class="attention">{{ $table->problem }}</p>
        @else
            <p class="hint">{{ Words::count((int) $table->count, 'row') }} then.</p>
            @if ($table->key !== [])
                <form method="get" action="/requests/{{ $request->id }}" class="inline mb-2"><input type="hidden" name="show"
                        value="what"><input type="hidden" name="table" value="{{ $table->schema }}.{{ $table->table }}"><label
                        for="by-key">{{ $table->key[0] }} begins with</label><input class="form-control form-control-sm mono w-auto"
                        id="by-key" name="key" size="16" maxlength="200" value="{{ $table->search }}"><button
                    class="btn btn-sm btn-outline-primary">Find</button></form>@else<p class="muted">It has no key, so its rows cannot
                    be set beside the live ones.</p>
            @endif
            <div class="scroll" tabindex="0" role="region" aria-label="Rows">
                <table class="list rows">
                    <thead>
                        <tr>
                            @foreach ($table->columns as $column)
                                <th>{{ $column }}</th>
                            @endforeach
                            <th>
                                Live now</th>
                        </tr>
                    </thead>
                    <tbody>
                        @foreach ($table->rows as $row)
                            <tr>
                                @php($changed = $row->changed())
                                @foreach ($table->columns as $column)
                                    <td class="mono">{{ $row->then[$column] ?? 'NULL' }}@if (in_array($column, $changed, true))
                                            <div class="attention">now {{ $row->now[$column] ?? 'NULL' }}</div>
                                        @endif
                                    </td>
                                @endforeach
                                <td class="tight">
                                    @if ($table->key === [])
                                    @elseif ($row->now === null)
                                        <span class="attention">not there</span>
                                    @elseif ($changed === [])
                                    the same @else<span class="attention">changed</span>
                                    @endif
                                </td>
                            </tr>
                        @endforeach
                    </tbody>
                </table>
                @if ($table->rows === [])
                    <p class="empty">No row's key begins with that.</p>
                @elseif (count($table->rows) < ($table->count ?? 0))
                    <p class="muted">The first {{ count($table->rows) }}{{ $table->search === '' ? '' : ' of those' }}. Find others by
                        their key.</p>
                @endif
            </div>
        @endif
    </x-look>
@else
    <p class="hint">The tables at this point, counted from the dump and the row events after it. Pick some to bring back only these;
        pick none for the whole schema.</p>
    @php($tables = $view->tables()->tables)
    @php($isLooked = $sheet->checks() !== null)
    @if ($tables === [])
        <p class="empty">
            {{ $sheet->problem ?? ($view->isByRows() ? 'The rows are those that the transaction touched: which, Preview tells.'
                : 'The dump does not tell its tables apart.') }}
        </p>
    @else
        <form method="post" action="/requests/{{ $request->id }}/database">@csrf<input type="hidden" name="set" value="tables">
            <div class="scroll">
                <table class="list mb-2">
                    <thead>
                        <tr>
                            <th></th>
                            <th>Table</th>
                            <th class="num">Rows then</th>
                            <th class="num">Rows now, about</th>
                            <th class="num">In the dump</th>
                            <th class="num">Transactions since it</th>
                        </tr>
                    </thead>
                    <tbody>
                        @foreach ($tables as $line)
                            <tr>
                                <td><input type="checkbox" name="tables[]" value="{{ $line->table }}"
                                        aria-label="{{ $line->table }}" @checked(in_array($line->table, $sheet->choice['tables']
                                            ?? [], true))></td>
                                <td class="tight"><a data-row
                                        href="{{ $frame->url('what', '&table=' . rawurlencode($line->schema . '.'
                                            . $line->table)) }}"><span
                                            class="muted">{{ $line->schema }}.</span>{{ $line->table }}</a></td>
                                <td class="num">{{ $line->rows === null ? 'not counted' : number_format($line->rows) }}</td>
                                <td class="num muted">
                                    {{ $line->live === null ? ($isLooked ? 'not there' : '') : number_format($line->live) }}</td>
                                <td class="num"><x-size :bytes="$line->bytes" /></td>
                                <td class="num">{{ $line->changes === 0 ? '' : number_format($line->changes) }}</td>
                            </tr>
                        @endforeach
                    </tbody>
                </table>
            </div>
            <button class="btn btn-primary">Settle it</button> <span class="muted">Enter on a table shows its rows beside the live
                ones.</span>
        </form>
    @endif
@endif
