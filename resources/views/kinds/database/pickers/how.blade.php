@use('App\Words')
<h2>
    How <kbd>h</kbd></h2>
@php($suspect = $view->suspect())
<p class="hint">The ways side by side.@if ($suspect !== null)
        The transaction they speak of is <span
            class="mono">{{ $suspect->gtid }}</span>{{ $suspect->statement === '' ? ''
                : ': ' . mb_strimwidth(preg_replace('/\s+/', ' ', $suspect->statement) ?? '', 0, 90, '…') }}
    @endif
</p>
<form method="post" action="/requests/{{ $request->id }}/database">@csrf<input type="hidden" name="set" value="way">
    @if ($suspect !== null)
        <input type="hidden" name="gtid" value="{{ $suspect->gtid }}">
    @endif
    <table class="list methods">
        <thead>
            <tr>
                <th>Way</th>
                <th>Touches</th>
                <th>Stands still</th>
                <th class="num">Takes</th>
                <th class="num">Reads</th>
                <th>Is lost</th>
                <th>In the end</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($view->ways() as $line)
                <tr class="@if ($line->isChosen) chosen @endif @if ($line->because !== null) off @endif">
                    <td><label><input type="radio" name="way" value="{{ $line->way }}" @checked($line->isChosen)
                                @disabled($line->because !== null)> {{ $line->title }}</label>
                        @if ($line->because !== null)
                            <div class="small attention">{{ $line->because }}</div>
                        @endif
                    </td>
                    <td>{{ $line->touches }}</td>
                    <td>
                        @if ($line->estimate->downtime->likely > 0)
                            about {{ Words::duration($line->estimate->downtime->likely) }},
                        @endif{{ $line->downtime }}
                    </td>
                    <td class="num text-nowrap"
                        title="{{ $view->spanInWords($line->estimate->whole) }}">
                        {{ Words::duration($line->estimate->whole->likely) }}</td>
                    <td class="num text-nowrap"><x-size :bytes="$line->estimate->bytes" /></td>
                    <td>{{ $line->lost }}</td>
                    <td>{{ $line->end }}</td>
                </tr>
            @endforeach
        </tbody>
    </table>
    <button class="btn btn-primary mt-2">Settle it</button>
</form>
<form method="post" action="/requests/{{ $request->id }}/database" class="mt-4">@csrf<input type="hidden" name="set"
        value="question">
    <h3 class="h6">A question of your own, asked before and after</h3>
    <label class="visually-hidden" for="query">SELECT</label><input class="form-control mono" id="query" name="query"
        maxlength="2000" placeholder="SELECT COUNT(*), SUM(price) FROM tickets"
        value="{{ old('query', $sheet->choice['query'] ?? '') }}"><span class="form-text">One SELECT; both answers are kept in the
        proof.</span>
    @if ($view->isByRows())
        <p class="mt-2 mb-1"><label><input type="checkbox" name="take" value="1" @checked($sheet->choice['take-conflicts'] ?? false)> Also
            take rows
                that somebody changed since: what they hold now is kept aside</label></p>
    @endif
    <button class="btn btn-sm btn-outline-primary mt-2">Settle it</button>
</form>
<x-copy-choices :frame="$frame" :copies="$sheet->copies()" />
<h3 class="h6 mt-4">A dump must be</h3>
<x-demands :frame="$frame" :demands="$sheet->demands" :within="false" />
<h3 class="h6 mt-4">Always checked</h3>
<dl class="facts">
    <dt>Rows</dt>
    <dd>of every table against the dump and the row events after it</dd>
    <dt>Checksum</dt>
    <dd>of every table as loaded, against the server that rolled it forward</dd>
    <dt>Objects</dt>
    <dd>views, triggers, routines, events, sequences; views are opened</dd>
    <dt>Keys</dt>
    <dd>every foreign key points at a row; mariadb-check reads every table</dd>
</dl>
