@use('App\Kinds\Files\Order\Destination')
@use('Kaiseki\Core\Catalog\EntryPath')
@use('Kaiseki\Core\Catalog\Shown')
@use('Kaiseki\Core\Files\ConflictRule')
@php($folders = $view->folders())
@php($isLooking = $folders->isLooking)
@php($chosen = old('destination', $folders->destination()))
<h2>
    Where <kbd>d</kbd></h2>
<p class="hint">{{ $sheet->said->permissionsOnly
    ? 'Only permissions come back, to what stands there; how it was is kept, and can be put back.'
    : 'Nothing is overwritten unless you say so here; what is replaced is set aside and can be put back.' }}</p>
<form method="post" action="/requests/{{ $request->id }}/destination">@csrf
    <div class="halves">
        <fieldset>
            <legend class="h6">{{ $sheet->said->permissionsOnly ? 'They are given to what stands in' : 'It goes to' }}</legend>
            @foreach (Destination::offered($sheet->said->permissionsOnly, $chosen) as $value => [$words, $text])
                <div class="choice"><input type="radio" id="to-{{ $value }}" name="destination" value="{{ $value }}"
                        @checked($chosen === $value) @if ($chosen === $value) data-focus @endif><label
                        for="to-{{ $value }}">{{ $words }}</label>
                    <div class="form-text">{{ $text }}</div>
                </div>
            @endforeach
        </fieldset>
        <fieldset @if ($sheet->said->permissionsOnly) hidden @endif>
            <legend class="h6">Where something stands already</legend>
            @foreach (Destination::CONFLICTS as $value => [$words, $text])
                <div class="choice"><input type="radio" id="if-{{ $value }}" name="conflict" value="{{ $value }}"
                        @checked(old('conflict', $sheet->said->conflict) === $value)><label for="if-{{ $value }}">{{ $words }}</label>
                    <div class="form-text">{{ $text }}</div>
                </div>
            @endforeach
            <details @if ($sheet->said->conflictIn !== []) open @endif>
                <summary>Another rule in one folder</summary>
                @foreach ($sheet->said->conflictIn as $folder => $rule)
                    <p class="mb-1"><x-path :of="rawurldecode($folder)" />: {{ ConflictRule::from($rule)->words() }}
                        <button class="link" name="drop_rule" value="{{ $folder }}">drop</button>
                    </p>
                @endforeach
                <div class="inline"><label class="visually-hidden" for="rule-folder">Folder</label><input class="form-control mono"
                        id="rule-folder" name="rule_folder" placeholder="/folder"><label class="visually-hidden"
                        for="rule">Rule</label><select class="form-select" id="rule" name="rule">
                        <option value="">as a rule…</option>
                        @foreach (ConflictRule::cases() as $case)
                            <option value="{{ $case->value }}">{{ $case->words() }}</option>
                        @endforeach
                    </select>
                </div>
            </details>
        </fieldset>
    </div>
    <div class="inline mt-2">
        @if ($folders->hosts()->isNotEmpty())<label for="host">Host</label><select
                class="form-select w-auto" id="host" name="host">
                <option value="">the workload’s own</option>
                @foreach ($folders->hosts() as $host)
                    <option value="{{ $host->id }}" @selected((int) old('host',
                        $folders->host?->id) === $host->id)>{{ $host->name }}</option>
                @endforeach
            </select>@endif
        <label for="folder">Folder</label><input class="form-control mono flex-fill" id="folder" name="folder"
            placeholder="/folder, made if missing"
            value="{{ old('folder', $isLooking ? '/' . Shown::name($folders->folder) : ($request->destination_folder === null ? ''
                : '/' . $request->destination_folder)) }}">
        @if (count($sheet->selection) === 1 && $sheet->selection[0] !== '')
            <label for="rename">Named</label><input class="form-control mono" id="rename" name="rename" size="18"
                placeholder="as it was" value="{{ old('rename', $sheet->newName() === '' ? '' : Shown::name($sheet->newName())) }}">
        @endif
        <button class="btn btn-primary text-nowrap">Settle it</button>
    </div>
</form>
<div class="folders" id="folders" role="region" aria-label="Folders of the target" tabindex="0"><span
        class="muted">{{ $folders->host === null ? 'Folders there' : "Folders of {$folders->host->name}" }}:</span>
    @if ($folders->silence !== null)<span class="attention">{{ $folders->silence }}</span>
    @else
        @if ($folders->above() !== null)
            <a id="folder-above" href="{{ $frame->url('where', $folders->query($folders->above())) }}"
                @if ($isLooking) data-key="Backspace" @endif>up</a>
        @endif
        @foreach ($folders->names as $name)
            <a id="folder-{{ $loop->index }}" class="mono"
                href="{{ $frame->url('where', $folders->query(EntryPath::join($folders->folder, $name))) }}">{{ Shown::name($name) }}/</a>
        @endforeach
        @if ($folders->names === [])
            <span class="muted">none in /{{ Shown::name($folders->folder) }}</span>
        @endif
        @if ($folders->isCut)
            <span class="muted">and more: type its name</span>
        @endif
    @endif
    @if ($folders->host === null)
        @foreach ($folders->hosts() as $host)
            <a id="look-{{ $host->id }}" href="{{ $frame->url('where', '&look=&host=' . $host->id) }}">look into
                {{ $host->name }}</a>
        @endforeach
    @else
        <a id="look-own" href="{{ $frame->url('where', '&look=&host=0') }}">look into the workload’s own</a>
    @endif
</div>
@foreach ($view->offers() as $offer)
    {{ $offer }}
@endforeach
