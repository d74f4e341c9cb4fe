{{-- Files looked for in all points, and picked with the point that has them. --}}
@php($search = $view->search())
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
        @php($rows = $view->foundFiles())
        @foreach ($found['notes'] ?? [] as $note)
            <p class="assumed mb-1">{{ $note }}</p>
        @endforeach
        @if ($rows === [])
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
                        @foreach ($rows as $row)
                            <tr>
                                <td class="pe-4">{{ $row->path() }}</td>
                                <td class="num">{{ $row->size() }}</td>
                                <td><x-moment :at="$row->changed()" :zone="$frame->zone" :offset="false" /></td>
                                <td><x-moment :at="$row->first()" :zone="$frame->zone" :offset="false" /></td>
                                <td>
                                    @if ($row->until() === null)
                                        the newest
                                    @else
                                        <x-moment :at="$row->until()" :zone="$frame->zone" :offset="false" />
                                    @endif
                                </td>
                                <td class="tight">
                                    @if ($row->version() !== null)
                                        <button class="link" data-row name="version" value="{{ $row->version() }}">take
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
