<label class="visually-hidden" for="find-name">
    Name</label><input class="form-control mono" id="find-name" name="q" size="20" maxlength="200"
    placeholder="part of a name, or *.csv" value="{{ $form->name }}" autocomplete="off">
<label for="find-text">words in it</label><input class="form-control" id="find-text" name="text" size="16" maxlength="200"
    value="{{ $form->text }}" title="All of them; &quot;in quotation marks&quot; one after the other" autocomplete="off">
<label for="find-size">size</label><input class="form-control mono" id="find-size" name="size" size="7" maxlength="40"
    placeholder=">1M" value="{{ $form->size }}" autocomplete="off">
<label for="find-from">changed</label><input class="form-control mono" id="find-from" name="changed_from" size="11" maxlength="40"
    placeholder="from" value="{{ $form->changedFrom }}" autocomplete="off"><label class="visually-hidden"
    for="find-to">to</label><input class="form-control mono" id="find-to" name="changed_to" size="11" maxlength="40"
    placeholder="to" value="{{ $form->changedTo }}" autocomplete="off">
<label for="find-owner">owner</label><input class="form-control mono" id="find-owner" name="owner" size="8" maxlength="100"
    value="{{ $form->owner }}" autocomplete="off">
<label for="find-author">author</label><input class="form-control" id="find-author" name="author" size="8" maxlength="100"
    value="{{ $form->author }}" title="Of a document, or of a version of it, as the library that it is in says" autocomplete="off">
<label class="visually-hidden" for="find-kind">Kind</label><select class="form-select" id="find-kind" name="kind">
    @foreach (['' => 'any kind', 'f' => 'files', 'd' => 'folders', 'l' => 'links'] as $value => $kind)
        <option value="{{ $value }}" @selected($form->kind === (string) $value)>{{ $kind }}</option>
    @endforeach
</select>
