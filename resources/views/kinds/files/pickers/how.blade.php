<h2>How <kbd>h</kbd></h2>
@if ($sheet->said->permissionsOnly)
    <p class="hint">How each thing is now is written down; then it gets its permissions of then, and is looked at again.</p>
@else
    <p class="hint">Each content is compared with its digest as it is read, staged beside its target, renamed into place, and then read
        again from there.</p>
@endif
<form method="post" action="/requests/{{ $request->id }}/how">@csrf
    <fieldset class="mb-3">
        <legend class="h6">What comes back</legend>
        <div class="choice"><input type="radio" id="comes-things" name="comes" value="things"
                @checked(!$sheet->said->permissionsOnly) @if (!$sheet->said->permissionsOnly) data-focus @endif><label
                for="comes-things">what was picked</label>
            <div class="form-text">With its permissions.</div>
        </div>
        <div class="choice"><input type="radio" id="comes-permissions" name="comes" value="permissions"
                @checked($sheet->said->permissionsOnly) @if ($sheet->said->permissionsOnly) data-focus @endif><label
                for="comes-permissions">only its permissions</label>
            <div class="form-text">Owner, group, mode and access list, to what stands there now. What is in it stays as it is, and no
                archive is read.</div>
        </div>
    </fieldset>
    <fieldset class="mb-3" @if ($sheet->said->permissionsOnly) hidden @endif>
        <legend class="h6">It is laid out</legend>
        <div class="choice"><input type="radio" id="layout-tree" name="layout" value="tree" @checked(!$sheet->said->flat)><label
                for="layout-tree">in its folders</label>
            <div class="form-text">Under the full path of each thing.</div>
        </div>
        <div class="choice"><input type="radio" id="layout-flat" name="layout" value="flat" @checked($sheet->said->flat)><label
                for="layout-flat">all in one folder</label>
            <div class="form-text">Names that clash are numbered.</div>
        </div>
    </fieldset>
    <button class="btn btn-primary">Settle it</button>
</form>
@if ($sheet->said->permissionsOnly)
    <h3 class="h6 mt-4">Always checked</h3>
    <dl class="facts">
        <dt>Owner, group, mode, list</dt>
        <dd>of everything, looked at again, against the catalog</dd>
        <dt>Count</dt>
        <dd>everything selected has got them, or is listed with the reason</dd>
    </dl>
    <p class="muted mt-3">Whom nobody knows on the target by that name is left out of a list, and named. Set-user bits of files are
        never added.</p>
@else
    <x-copy-choices :frame="$frame" :copies="$sheet->copies()" />
    <h3 class="h6 mt-4">Always checked</h3>
    <dl class="facts">
        <dt>Content</dt>
        <dd>BLAKE2b-256 of every file, against the catalog</dd>
        <dt>Size, permissions, time</dt>
        <dd>of every file and folder that came back</dd>
        <dt>Count</dt>
        <dd>everything selected came back, or is listed with the reason</dd>
    </dl>
    <p class="muted mt-3">Set-user and set-group bits, sockets and devices do not come back.</p>
@endif
