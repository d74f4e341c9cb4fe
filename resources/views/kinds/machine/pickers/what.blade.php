@use('App\Words')
@use('Kaiseki\Core\Archive\EntryKind')
@use('Kaiseki\Core\Catalog\Shown')
@php($inside = $view->inside())
@php($base = $frame->url('what'))
<h2>
    What <kbd>t</kbd></h2>
@if ($view->disks() === [])
    <p class="empty">There is no usable point yet: choose one under When.</p>
@else
    @if ($sheet->said->paths !== [])
        <form method="post" action="/requests/{{ $request->id }}/machine" class="mb-2">@csrf<input type="hidden" name="settle"
                value="files"><input type="hidden" name="folder_shown" value="{{ $inside->folder }}">
            @foreach ($sheet->said->paths as $path)
                <p class="mb-0 picked"><x-path :of="rawurldecode($path)" /> <button class="link" name="drop"
                        value="{{ $path }}">take out</button></p>
            @endforeach
        </form>
    @endif
    @include('kinds.machine.pickers.search')
    @if ($inside->folder === '')
        <p class="hint">Whole disks are brought back; or look into a volume, and pick files.</p>
        <form method="post" action="/requests/{{ $request->id }}/machine">@csrf<input type="hidden" name="settle" value="disks">
            <table class="list mb-3">
                <thead>
                    <tr>
                        <th class="pe-4">Disk</th>
                        <th class="num">Size</th>
                        <th class="num">In use</th>
                        <th class="num">In this set</th>
                        <th>Read from</th>
                        <th>Cannot be had</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($view->disks() as $name => $disk)
                        <tr>
                            <td class="pe-4"><label class="mono"><input type="checkbox" name="disks[]" value="{{ $name }}"
                                        @checked($sheet->said->paths === [] && $view->isPicked($name))
                                        @if ($loop->first) data-focus @endif> {{ $name }}</label></td>
                            <td class="num">{{ Words::size($disk->size) }}</td>
                            <td class="num">{{ Words::size($view->used($name)) }}</td>
                            <td class="num">{{ Words::size($disk->held) }}</td>
                            <td>{{ Words::count($view->chainLength($name), 'image') }}</td>
                            <td @if ($view->lost($name) > 0) class="attention" @endif>
                                {{ $view->lost($name) === 0 ? '' : Words::count($view->lost($name), 'block') . ' of 64 KiB' }}</td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            <button class="btn btn-primary">Bring these back</button>
        </form>
        <h3 class="h6 mt-4">Volumes</h3>
        <table class="list">
            <thead>
                <tr>
                    <th class="pe-4">Volume</th>
                    <th class="num">Size</th>
                    <th>File system</th>
                    <th>Named</th>
                </tr>
            </thead>
            <tbody>
                @foreach ($inside->volumes() as $volume)
                    <tr>
                        <td class="mono pe-4">
                            @if ($volume->files === null)
                                {{ $volume->name }}
                            @else
                                <a data-row class="text-decoration-underline"
                                    href="{{ $base }}&amp;folder={{ rawurlencode($volume->name) }}">{{ $volume->name }}</a>
                            @endif
                        </td>
                        <td class="num">{{ Words::size($volume->partition->size()) }}</td>
                        <td>{{ $volume->files?->type() ?? $volume->because }}</td>
                        <td>{{ Shown::name($volume->files?->label() ?: $volume->partition->name) }}</td>
                    </tr>
                @endforeach
            </tbody>
        </table>
    @else
        @php($rows = $inside->rows())
        <p class="mb-1">
            @foreach ($inside->trail() as [$path, $name])
                @if (!$loop->last)
                    <a href="{{ $base }}&amp;folder={{ rawurlencode($path) }}"
                        @if ($loop->remaining === 1) data-key="Backspace" @endif>{{ Shown::name($name) }}</a> <span
                        class="muted">/</span>
                @else
                    <strong>{{ Shown::name($name) }}</strong>
                @endif
            @endforeach
        </p>
        @foreach ($inside->losses as $loss)
            <p class="assumed mb-1">{{ $loss }}</p>
        @endforeach
        @if ($inside->problem !== null)
            <p class="attention">{{ $inside->problem }}</p>
        @endif
        <form method="post" action="/requests/{{ $request->id }}/machine">@csrf<input type="hidden" name="settle"
                value="files"><input type="hidden" name="folder_shown" value="{{ $inside->folder }}">
            <table class="list">
                <thead>
                    <tr>
                        <th class="tick"><span class="visually-hidden">Picked</span></th>
                        <th class="pe-4">Name</th>
                        <th class="num">Size</th>
                        <th>Changed</th>
                        <th>Mode</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($rows as $name => $file)
                        @php($path = $inside->path((string) $name))
                        @php($isFolder = $file->version->kind === EntryKind::Folder)
                        @php($isPicked = $inside->isPicked($path))
                        @php($comesAlong = $inside->comesAlong($path))
                        <tr class="@if ($isPicked || $comesAlong) chosen @endif">
                            <td class="tick"><button data-tick @if (!$isFolder) data-row @endif
                                    @if ($comesAlong) disabled title="It comes with its folder" @endif
                                    name="{{ $isPicked ? 'drop' : 'take' }}" value="{{ rawurlencode($path) }}"
                                    aria-pressed="{{ $isPicked || $comesAlong ? 'true' : 'false' }}"
                                    aria-label="Pick {{ Shown::name((string) $name) }}"></button></td>
                            <td class="pe-4">
                                @if ($isFolder)
                                    <a data-row
                                        href="{{ $base }}&amp;folder={{ rawurlencode($path) }}">{{ Shown::name((string) $name) }}/</a>
                                @else
                                    {{ Shown::name((string) $name) }}
                                    @if ($file->version->linkTarget !== '')
                                        <span class="muted">→ {{ Shown::name($file->version->linkTarget) }}</span>
                                    @endif
                                @endif
                            </td>
                            <td class="num">{{ $file->version->kind === EntryKind::File ? Words::size($file->version->size) : '' }}</td>
                            <td><x-moment :at="$inside->changed($file)" :zone="$frame->zone" /></td>
                            <td class="mono">{{ sprintf('%04o', $file->version->mode) }}</td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            @if ($inside->count > count($rows))
                <p class="muted">The first {{ number_format(count($rows)) }} of {{ number_format($inside->count) }}; browse lists all
                    on the command line.</p>
            @elseif ($rows === [] && $inside->problem === null)
                <p class="empty">Nothing lies in this folder.</p>
            @endif
        </form>
    @endif
@endif
