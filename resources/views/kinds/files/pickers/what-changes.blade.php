@use('App\Kinds\Files\Order\ChangedPaths')
@use('App\Words')
@php($vanished = $what->vanished())
<form method="post" action="/requests/{{ $request->id }}/select" class="mb-3">@csrf
    <h3 class="h6">What has vanished</h3>
    <p class="mb-1">
        {{ $vanished > ChangedPaths::MOST ? 'More than ' . number_format(ChangedPaths::MOST) . ' things'
            : Words::count($vanished, 'thing') }}
        of this point {{ $vanished === 1 ? 'is' : 'are' }} not in the newest point any more. A folder that went as a whole counts once.
    </p>
    <div class="inline"><label for="since">gone after</label><input class="form-control mono" id="since" name="since" size="20"
            maxlength="60" placeholder="this point" title="2026-11-12 19:30" value="{{ old('do') === 'vanished' ? old('since') : '' }}"
            autocomplete="off"><button class="btn btn-outline-primary" name="do" value="vanished">Pick all of it</button></div>
</form>
<form method="post" action="/requests/{{ $request->id }}/select">@csrf
    <h3 class="h6">What had changed</h3>
    <p class="mb-1">Files and links of this point that were new, or other than before.</p>
    <div class="inline"><label for="from">changed after</label><input class="form-control mono" id="from" name="since"
            size="20" maxlength="60" placeholder="2026-11-12 19:30" value="{{ old('do') === 'changed' ? old('since') : '' }}"
            required autocomplete="off"><span class="muted">and until <x-moment :at="$sheet->point->captured_at" :zone="$frame->zone"
                :offset="false" /></span><button class="btn btn-outline-primary" name="do" value="changed">Pick all of
            it</button></div>
</form>
