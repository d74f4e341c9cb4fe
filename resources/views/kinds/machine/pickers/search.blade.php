{{-- Files looked for in all points, and picked with the point that has them. --}}
@use('App\Words')
@use('Carbon\CarbonImmutable')
@php($search = $view->search())
@php($moment = fn(int $at) => CarbonImmutable::createFromTimestampUTC($at))
@php($action = "/requests/{$request->id}/machine/search")
<form class="d-flex gap-2 my-2" method="post" action="{{ $action }}" role="search">@csrf
    <input class="form-control form-control-sm w-auto" size="34" name="q" value="{{ $view->searched() }}" maxlength="200"
        required data-key="f" aria-label="A file's name, or a part of it" placeholder="a file's name, or a part of it">
    <button class="btn btn-outline-primary btn-sm">Look in all points</button>
</form>
@error('q')
    <p class="attention" role="alert">{{ $message }}</p>
@enderror
@if ($search !== null)
    <x-look id="inside-found" :look="$search" :zone="$frame->zone" :url="$frame->url('what') . '&q=' . rawurlencode($view->searched())"
        :action="$action" :asked="['q' => $view->searched()]">
        @php($found = $search->found())
        @foreach ($found['notes'] ?? [] as $note)
            <p class="assumed mb-1">{{ $note }}</p>
        @endforeach
        @if (($found['rows'] ?? []) === [])
            <p class="muted">Nothing in any point is called so.</p>
        @else
            <form method="post" action="/requests/{{ $request->id }}/machine">@csrf<input type="hidden" name="settle"
                    value="files">
                <table class="list mb-3">
                    <thead>
                        <tr>
                            <th class="pe-4">File</th>
                            <th class="num">Size</th>
                            <th>Changed</th>
                            <th>In points from</th>
                            <th>Until</th>
                            <th></th>
                        </tr>
                    </thead>
                    <tbody>
                        @foreach ($found['rows'] as $row)
                            <tr>
                                <td class="pe-4">{{ $row['shown'] }}{{ $row['kind'] === 'folder' ? '/' : '' }}</td>
                                <td class="num">{{ $row['kind'] === 'file' ? Words::size($row['size']) : '' }}</td>
                                <td><x-moment :at="$moment($row['changed'])" :zone="$frame->zone" :offset="false" /></td>
                                <td><x-moment :at="$moment($row['first'])" :zone="$frame->zone" :offset="false" /></td>
                                <td>
                                    @if ($row['until'] === null)
                                        the newest
                                    @else
                                        <x-moment :at="$moment($row['until'])" :zone="$frame->zone" :offset="false" />
                                    @endif
                                </td>
                                <td class="tight">
                                    @if ($row['point'] !== null)
                                        <button class="link" data-row name="version" value="{{ $row['point'] }}:{{ $row['path'] }}">take
                                            this one</button>
                                    @endif
                                </td>
                            </tr>
                        @endforeach
                    </tbody>
                </table>
            </form>
        @endif
    </x-look>
@endif
