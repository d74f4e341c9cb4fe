<h2>Where <kbd>d</kbd></h2>
<p class="hint">Nothing is overwritten unless you say so here; what is replaced is set aside and can be put back.</p>
<form method="post" action="/requests/{{ $request->id }}/destination">@csrf
<fieldset class="mb-3"><legend class="h6">It goes to</legend>
@foreach (['new-folder' => ['a new folder on the same host', 'Touches nothing. The requester takes from it what is needed.'], 'own-place' => ['its own place', 'To where it came from, under its own names.'], 'folder' => ['another folder of the host', 'Named below, from the top of the protected tree.']] as $value => [$words, $text])
<div class="choice"><input type="radio" id="to-{{ $value }}" name="destination" value="{{ $value }}" @checked(old('destination', $request->destination) === $value) @if (old('destination', $request->destination) === $value) data-focus @endif><label for="to-{{ $value }}">{{ $words }}</label><div class="form-text">{{ $text }}</div></div>
@endforeach
<label class="form-label visually-hidden" for="folder">Folder</label><input class="form-control mono w-75" id="folder" name="folder" placeholder="/folder/of/the/host" value="{{ old('folder', $request->destination_folder === null ? '' : '/'.$request->destination_folder) }}">
</fieldset>
<fieldset class="mb-3"><legend class="h6">Where something stands already</legend>
@foreach ([['beside', 'put the restored one beside it', 'It gets a dated name. A service that reads the whole folder would then read both.'], ['missing-only', 'add only what is missing', 'What is there stays as it is.'], ['rename-present', 'rename what is there', 'The present one gets a dated name, the restored one takes its place.'], ['replace', 'replace it', 'The present one goes to the set-aside, from which it can be put back.']] as [$value, $words, $text])
<div class="choice"><input type="radio" id="if-{{ $value }}" name="conflict" value="{{ $value }}" @checked(old('conflict', $request->conflict) === $value)><label for="if-{{ $value }}">{{ $words }}</label><div class="form-text">{{ $text }}</div></div>
@endforeach
</fieldset>
<button class="btn btn-primary">Settle it</button>
</form>
