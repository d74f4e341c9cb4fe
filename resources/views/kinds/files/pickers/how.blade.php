<h2>How <kbd>h</kbd></h2>
<p class="hint">Each content is compared with its digest as it is read, staged beside its target, renamed into place, and then read
    again from there.</p>
<form method="post" action="/requests/{{ $request->id }}/how">@csrf
    <fieldset class="mb-3">
        <legend class="h6">It is laid out</legend>
        <div class="choice"><input type="radio" id="layout-tree" name="layout" value="tree" @checked(!$sheet->said->flat)
                data-focus><label for="layout-tree">in its folders</label>
            <div class="form-text">Under the full path of each thing.</div>
        </div>
        <div class="choice"><input type="radio" id="layout-flat" name="layout" value="flat" @checked($sheet->said->flat)><label
                for="layout-flat">all in one folder</label>
            <div class="form-text">Names that clash are numbered.</div>
        </div>
    </fieldset>
    <button class="btn btn-primary">Settle it</button>
</form>
<x-copy-choices :frame="$frame" :copies="$sheet->copies()" />
<h3 class="h6 mt-4">Always checked</h3>
<dl class="facts">
    <dt>Content</dt>
    <dd>BLAKE2b-256 of every file, against the catalog</dd>
    <dt>Size, mode, time</dt>
    <dd>of every file and folder that came back</dd>
    <dt>Count</dt>
    <dd>everything selected came back, or is listed with the reason</dd>
</dl>
<p class="muted mt-3">Set-user and set-group bits, sockets and devices do not come back.</p>
