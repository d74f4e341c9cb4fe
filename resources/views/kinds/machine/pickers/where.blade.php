<h2>
    Where <kbd>d</kbd></h2>
<p class="hint">
    {{ match (true) {
        $sheet->into() !== null => 'Nothing gets its name in the machine before all that was brought was compared.',
        $sheet->isAtHypervisor => 'What stands there is touched only once all that was brought is right.',
        default => 'Images are written beside what is there, and nothing is written over.',
    } }}</p>
@php($to = old('to', $view->to()))
<form method="post" action="/requests/{{ $request->id }}/machine">@csrf<input type="hidden" name="settle" value="where">
    <fieldset>
        <legend class="h6">It goes to</legend>
        <div class="choice"><input type="radio" id="to-new-folder" name="to" value="new-folder"
                @checked($to === 'new-folder') @if ($to === 'new-folder') data-focus @endif><label
                    for="to-new-folder">a new folder on this machine</label>
            <div class="form-text">Named after the request.</div>
        </div>
        <div class="choice"><input type="radio" id="to-host" name="to" value="host" @checked($to === 'host')
                @if ($to === 'host') data-focus @endif><label
                for="to-host">a folder of a host</label>
            <div class="form-text">Tried out before anything starts.</div>
        </div>
        <div class="inline ms-4 mb-2"><label class="visually-hidden" for="host">Host</label><select class="form-select w-auto"
                id="host" name="host">
                @foreach ($view->hosts() as $host)
                    <option value="{{ $host->id }}" @selected((int) old('host', $sheet->said->host) === $host->id)>{{ $host->name }}
                    </option>
                @endforeach
            </select><label class="visually-hidden" for="folder">Folder</label><input class="form-control mono" id="folder"
                name="folder" maxlength="1000" placeholder="/folder" value="{{ old('folder', $sheet->said->folder) }}"></div>
        <div class="choice"><input type="radio" id="to-hypervisor" name="to" value="hypervisor"
                @checked($to === 'hypervisor')
                @if ($to === 'hypervisor') data-focus @endif><label
                    for="to-hypervisor">a hypervisor, as a machine that can be started</label>
            <div class="form-text">As a whole, or only what it lacks of it.</div>
        </div>
        <div class="inline ms-4 mb-2"><label class="visually-hidden" for="hypervisor">Hypervisor</label><select
                class="form-select w-auto" id="hypervisor" name="hypervisor">
                @php($chosen = (int) old('hypervisor', $sheet->hypervisor()?->id))
                @foreach ($view->hypervisors() as $host)
                    <option value="{{ $host->id }}" @selected($chosen === $host->id)>
                        {{ $host->name }}, {{ $host->site }}{{ $host->silent === null ? '' : ': does not answer' }}</option>
                @endforeach
            </select></div>
        @if ($view->machines() !== [])
            <div class="choice"><input type="radio" id="to-machine" name="to" value="machine" @checked($to === 'machine')
                @if ($to === 'machine') data-focus @endif><label
                    for="to-machine">files, into a machine that is there</label>
                <div class="form-text">To the place that each had; or into a folder: of one that runs as it sees it itself, of one that
                    is off as it is listed under What.</div>
            </div>
            <div class="inline ms-4 mb-2"><label class="visually-hidden" for="into">Machine</label><select class="form-select w-auto"
                    id="into" name="into">
                    @foreach ($view->machines() as $value => $words)
                        <option value="{{ $value }}" @selected(old('into', $view->intoMachine()) === $value)>{{ $words }}</option>
                    @endforeach
                </select><label class="visually-hidden" for="inside">Folder in it</label><input class="form-control mono" id="inside"
                    name="inside" maxlength="1000" placeholder="/folder"
                    value="{{ old('inside', $view->insideShown()) }}"></div>
        @endif
    </fieldset>
    @if ($view->hypervisors()->isEmpty())
        <p class="muted">No hypervisor is known that you may write to. One is made known with <span class="mono">bin/kaiseki hypervisor
                add</span>.</p>
    @endif
    @if ($view->hosts()->isEmpty())
        <p class="muted">No host is known that you may write to. One is made known with <span class="mono">bin/kaiseki host-add</span>.
        </p>
    @endif
    <button class="btn btn-primary mt-2">Settle it</button>
</form>
@include('kinds.machine.onto-metal', ['enrolments' => $view->enrolments()])
@if ($sheet->isAtHypervisor)
    @include('kinds.machine.place')
@endif
