@use('App\Words')
@use('Kaiseki\Core\Files\ConflictRule')
@use('Kaiseki\Core\Machine\ImageFormat')
<h2>
    How <kbd>h</kbd></h2>
@php($isFiles = $sheet->isFiles())
@if ($sheet->isAtHypervisor)
    @include('kinds.machine.ways')
@else
<p class="hint">Each block is compared with its digest as it is read, and
    {{ $isFiles ? 'each file is read again from where it went.' : 'again in what was written.' }}</p>
<form method="post" action="/requests/{{ $request->id }}/machine">@csrf<input type="hidden" name="settle" value="how">
    @if ($isFiles)
        <input type="hidden" name="format" value="{{ $view->format()->value }}">
        <fieldset class="mb-3">
            <legend class="h6">Where something stands already</legend>
            @foreach (ConflictRule::cases() as $rule)
                <div class="choice"><input type="radio" id="if-{{ $rule->value }}" name="conflict" value="{{ $rule->value }}"
                        @checked($sheet->said->conflict === $rule->value)
                        @if ($sheet->said->conflict === $rule->value) data-focus @endif><label
                        for="if-{{ $rule->value }}">{{ $rule->words() }}</label></div>
            @endforeach
        </fieldset>
    @else
        <input type="hidden" name="conflict" value="{{ $sheet->said->conflict }}">
        <fieldset class="mb-3">
            <legend class="h6">It is written as</legend>
            @foreach (ImageFormat::cases() as $format)
                <div class="choice"><input type="radio" id="format-{{ $format->value }}" name="format"
                        value="{{ $format->value }}" @checked($view->format() === $format)
                        @if ($view->format() === $format) data-focus @endif><label
                        for="format-{{ $format->value }}">{{ $format->extension() }}</label>
                    <div class="form-text">{{ ucfirst($format->words()) }}.</div>
                </div>
            @endforeach
        </fieldset>
        <p><label><input type="checkbox" name="part" value="1" @checked($sheet->said->part)> Also if blocks cannot be had: they are
                left as zeros, and listed in the proof</label></p>
    @endif
    <button class="btn btn-primary">Settle it</button>
</form>
@endif
<x-copy-choices :frame="$frame" :copies="$sheet->copies()" />
<h3 class="h6 mt-4">Always checked</h3>
<dl class="facts">
    <dt>Blocks</dt>
    <dd>every 64 KiB that is read, by BLAKE2b-256</dd>
    @if ($sheet->isAtHypervisor)
        <dt>Disks</dt>
        <dd>read again at the hypervisor from beginning to end, before anything that stands there is touched</dd>
        <dt>Configuration</dt>
        <dd>asked for again, and compared</dd>
        <dt>Started</dt>
        <dd>if it is: it must answer as itself; another's answer is a failure</dd>
    @elseif ($isFiles)
        <dt>Files</dt>
        <dd>content, size, mode and time of each, read again from its place</dd>
    @else
        <dt>Other formats</dt>
        <dd>are read back into a raw disk, and that is what is compared</dd>
        <dt>Place</dt>
        <dd>images get their names when all of them are right</dd>
    @endif
</dl>
