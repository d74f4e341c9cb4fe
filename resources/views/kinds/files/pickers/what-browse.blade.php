@use('App\Trees\Catalog\ChildOrder')
@use('App\Words')
@use('Kaiseki\Core\Archive\EntryKind')
@use('Kaiseki\Core\Catalog\Shown')
@php($crumbs = $what->crumbs())
<nav class="crumbs" aria-label="Folder">
    @foreach ($crumbs as $i => [$name, $path])
        @if ($loop->last)
        <strong>{{ Shown::name($name) }}</strong>@else<a id="crumb-{{ $i }}" href="{{ $what->folderUrl($path) }}"
                @if ($i === count($crumbs) - 2) data-key="Backspace" @endif>{{ Shown::name($name) }}</a> <span class="muted">/</span>
        @endif
    @endforeach
    <form method="get" action="/requests/{{ $request->id }}" class="ms-auto" role="search"><input type="hidden" name="show"
            value="what"><input type="hidden" name="folder" value="{{ $what->folder }}"><label class="visually-hidden"
            for="begins">Names that begin with</label><input class="form-control mono begins" id="begins" name="begins"
            data-key="f" size="14" maxlength="100" placeholder="begins with… f" value="{{ $what->begins }}" autocomplete="off"
            hx-get="/requests/{{ $request->id }}" hx-include="closest form" hx-trigger="input changed delay:250ms"
            hx-target="#children" hx-select="#children" hx-swap="outerHTML"></form>
    <form method="post" action="/requests/{{ $request->id }}/selection">@csrf<input type="hidden" name="path"
            value="{{ rawurlencode($what->folder) }}"><input type="hidden" name="folder"
            value="{{ rawurlencode($what->folder) }}"><button class="btn btn-sm btn-outline-primary" name="do"
            value="turn">{{ $what->isPickedItself($what->folder) ? 'Take this folder out' : 'Pick this whole folder' }}</button>
    </form>
</nav>
<div id="children">
    @php([$all, $first, $last] = $what->extent())
    @if ($all === 0)
        <p class="empty">{{ $what->begins === '' ? 'This folder was empty.' : 'No name in it begins so.' }}</p>
    @else
        <div class="scroll">
            <table class="list">
                <thead>
                    <tr>
                        <th class="tick"><span class="visually-hidden">Picked</span></th>
                        @foreach (['name' => ['Name', ''], 'files' => ['Files', 'num'], 'size' => ['Size', 'num'],
                            'changed' => ['Changed', ''], 'mode' => ['Mode', '']] as $by => [$title, $class])
                            @php($column = ChildOrder::from($by))
                            <th class="{{ $class }}"
                                @if ($what->order === $column) aria-sort="{{ $what->descending ? 'descending' : 'ascending' }}" @endif>
                                <a id="sort-{{ $by }}" class="sort"
                                    href="{{ $what->folderUrl($what->folder, 0, $column) }}">{{ $title }}{{ $what->order === $column
                                        ? ($what->descending ? ' ↓' : ' ↑') : '' }}</a>
                            </th>
                        @endforeach
                        <th><span class="visually-hidden">Versions</span></th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($what->children() as $child)
                        @php($shown = Shown::name($child->name))
                        <tr id="row-{{ substr(md5($child->path), 0, 12) }}" class="@if ($what->isPicked($child->path)) chosen @endif">
                            <td class="tick">
                                <form method="post" action="/requests/{{ $request->id }}/selection" class="m-0">@csrf<input
                                        type="hidden" name="path" value="{{ rawurlencode($child->path) }}"><input type="hidden"
                                        name="folder" value="{{ rawurlencode($what->folder) }}"><input type="hidden" name="page"
                                        value="{{ $what->page }}"><button data-tick @if (!$child->isFolder()) data-row @endif
                                        name="do" value="turn"
                                        aria-pressed="{{ $what->isPicked($child->path) ? 'true' : 'false' }}"
                                        aria-label="Pick {{ $shown }}"></button></form>
                            </td>
                            <td>
                                @if ($child->isFolder())
                                    <a data-row href="{{ $what->folderUrl($child->path) }}">{{ $shown }}/</a>
                                @elseif ($child->version->isUnknown())
                                    <span class="mark-failed"
                                        title="Its content is in no archive that can be read">{{ $shown }}</span>
                                @elseif ($child->absence() !== null)
                                    <span class="muted">{{ $shown }}: {{ $child->absence() }}</span>
                                @elseif ($child->version->kind === EntryKind::File)
                                    <a class="text-reset" hx-boost="false" tabindex="-1" title="Look at it"
                                        href="{{ $what->lookUrl($child->path) }}">{{ $shown }}</a>
                                @else
                                    {{ $shown }}
                                    @if ($child->version->linkTarget !== '')
                                        <span class="muted">→
                                            {{ Shown::name($child->version->linkTarget) }}</span>
                                    @endif
                                @endif
                            </td>
                            <td class="num">{{ $child->isFolder() ? number_format($child->files) : '' }}</td>
                            @if ($child->absence() !== null)
                                <td colspan="3"></td>
                            @else
                                <td class="num"><x-size :bytes="$child->size()" /></td>
                                <td class="tight mono">
                                    {{ Words::changed($child->version->mtime, $frame->zone) }}
                                </td>
                                <td class="mono tight"
                                    title="{{ Shown::name($child->version->owner()) }}">
                                    {{ sprintf('%04o', $child->version->mode) }}@if ($child->version->linkGroup !== 0)
                                        <span class="muted" title="One file with several names">linked</span>
                                    @endif
                                </td>
                            @endif
                            <td class="tight">
                                @if (!$child->isFolder())
                                    <a hx-boost="false" tabindex="-1" aria-label="Versions of {{ $shown }}"
                                        href="{{ $what->versionsUrl($child->path) }}">versions</a>
                                @endif
                            </td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        </div>
        @if ($all > $last || $first > 1)
            <p class="mt-2">{{ number_format($first) }} to {{ number_format($last) }} of {{ number_format($all) }} @if ($first > 1)
                    <a href="{{ $what->folderUrl($what->folder, $what->page - 1) }}">earlier</a>
                    @endif @if ($all > $last)
                        <a href="{{ $what->folderUrl($what->folder, $what->page + 1) }}">further</a>
                    @endif
            </p>
        @endif
    @endif
</div>
