@use('App\Runs\SetAsides')
@use('App\Words')
@use('Kaiseki\Core\Catalog\Shown')
@use('Kaiseki\Core\Files\Deed')
@php($preview = $view->preview())
<div class="headed">
    <h2>Preview <kbd>p</kbd></h2>
    @if ($preview !== null)
        <form method="get" action="/requests/{{ $request->id }}" class="moment" role="search"><input type="hidden" name="show"
                value="preview"><label class="muted" for="preview-path">only</label><input class="form-control mono" id="preview-path"
                name="of" size="18" maxlength="200" placeholder="part of a path" value="{{ $view->previewOf() }}"
                autocomplete="off"><label class="visually-hidden" for="preview-deed">What happens</label><select
                class="form-select w-auto" id="preview-deed" name="deed">
                <option value="">what changes something</option>
                <option value="all" @selected($view->previewDeed() === 'all')>whatever happens</option>
                @foreach (Deed::cases() as $deed)
                    <option value="{{ $deed->value }}" @selected($view->previewDeed() === $deed->value)>{{ $deed->words() }}</option>
                @endforeach
            </select>
            <button class="btn btn-sm btn-outline-primary">Filter</button>
        </form>
    @endif
</div>
@if ($sheet->destination->isDownload())
    <p class="empty">A download touches nothing.
        {{ $sheet->reading === null ? 'Pick something first.'
            : ucfirst(Words::count($sheet->reading->files, 'file')) . ', ' . Words::size($sheet->reading->bytes)
            . ', are sent to your browser.' }}
    </p>
@elseif ($preview === null)
    <p class="empty">
        {{ $sheet->reading === null || $sheet->target === null
            ? 'Pick something and say where it goes; then what the run would do stands here.' : $sheet->blockers[0]
            ?? 'It cannot be seen.' }}
    </p>
@else
    <p class="hint">{{ $sheet->said->permissionsOnly ? 'In' : 'Into' }} <span
            class="mono">{{ $sheet->destination->host === null ? ''
                : $sheet->destination->host->name . ':' }}{{ Shown::name($sheet->target) }}</span>,
        as it is now. The run does this, or stops if something there changes meanwhile.</p>
    <table class="list deeds mb-2">
        <thead>
            <tr>
                <th>What happens</th>
                <th class="num">Things</th>
                <th class="num">Files</th>
                @if (!$sheet->said->permissionsOnly)
                    <th class="num">Come back</th>
                @endif
            </tr>
        </thead>
        <tbody>
            @foreach ($preview->counts as $deed => $count)
                @if ($count->entries > 0)
                    <tr>
                        <td><a href="{{ $frame->url('preview', '&deed=' . $deed) }}">{{ Deed::from($deed)->words() }}</a>
                        </td>
                        <td class="num">{{ number_format($count->entries) }}</td>
                        <td class="num">{{ number_format($count->files) }}</td>
                        @if (!$sheet->said->permissionsOnly)
                            <td class="num">
                                @if ($count->bytes > 0)
                                    <x-size :bytes="$count->bytes" />
                                @endif
                            </td>
                        @endif
                    </tr>
                @endif
            @endforeach
        </tbody>
    </table>
    @if (!$sheet->said->permissionsOnly)
        <p class="mb-1 @if (!$preview->fits()) attention @endif">{{ Words::size($preview->bytesNeeded) }} are written and
            {{ Words::size($preview->bytesFree) }} are
            free{{ $preview->bytesSetAside > 0 ? '; ' . Words::size($preview->bytesSetAside)
                . ' that are replaced stay in the set-aside for ' . SetAsides::DAYS . ' days' : '' }}.
        </p>
    @endif
    @if ($preview->onlyPermissions > 0)
        <p class="mb-1">{{ Words::count($preview->onlyPermissions, 'thing differs', 'things differ') }} in nothing but permissions. <a
                class="text-decoration-underline" href="{{ $frame->url('how') }}">Give back only these</a></p>
    @endif
    @if ($preview->newer > 0)
        <p class="attention mb-1">{{ Words::count($preview->newer, 'thing') }} there changed later than what comes back.</p>
    @endif
    @foreach ($preview->open as $line)
        <p class="attention mb-1"><x-path :of="$line->path" /> is open for writing in {{ $line->openIn }}: it would go on writing into
            the file that is moved away.</p>
    @endforeach
    @foreach (array_slice($preview->warnings, 0, 5) as $warning)
        <p class="attention mb-1">{{ $warning }}</p>
    @endforeach
    @if (count($preview->warnings) > 5)
        <p class="attention mb-1">and {{ count($preview->warnings) - 5 }} more names like these.</p>
    @endif
    @if ($view->previewDeed() === '' && $preview->untouched() > 0)
        <p class="muted mb-1">{{ Words::count($preview->untouched(), 'thing') }} that {{ $preview->untouched() === 1 ? 'stays as it is'
            : 'stay as they are' }}, {{ $preview->untouched() === 1 ? 'is' : 'are' }} not listed. <a class="text-decoration-underline"
                href="{{ $frame->url('preview', '&deed=all&of=' . rawurlencode($view->previewOf())) }}">List all</a></p>
    @endif
    @if ($preview->lines === [])
        <p class="empty">{{ $view->previewDeed() === '' && $view->previewOf() === '' ? 'It would change nothing: all of it is there.'
            : 'Nothing fits the filter.' }}</p>
    @else
        <div class="scroll short" tabindex="0" role="region" aria-label="Thing by thing">@include('kinds.files.preview-lines')</div>
        @php($earlier = $view->previewUrl($view->page - 1, $preview))
        @php($further = $view->previewUrl($view->page + 1, $preview))
        <p class="mt-1 muted">{{ $view->shownOf($preview) }}
            @if ($earlier !== null)
                <a class="text-decoration-underline" href="{{ $earlier }}">earlier</a>
            @endif
            @if ($further !== null)
                <a class="text-decoration-underline" href="{{ $further }}">further</a>
            @endif
        </p>
    @endif
@endif
