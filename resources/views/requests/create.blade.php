@php($zone = auth()->user()->zone)
<x-layout title="New request">
    <main id="main" class="page ask">
        <h1>New request</h1>
        <form method="post" action="/requests">
            @csrf
            <div class="mb-3"><label class="form-label" for="summary">What is missing, in a line</label><input class="form-control"
                    id="summary" name="summary" maxlength="300" value="{{ old('summary') }}" required data-focus></div>
            <div class="row">
                <div class="col mb-3"><label class="form-label" for="workload">Where it was</label><select class="form-select"
                        id="workload" name="workload">
                        <option value="">not sure</option>
                        @foreach ($workloads as $workload)
                            <option value="{{ $workload->id }}" @selected(old('workload') == $workload->id)>{{ $workload->name }}</option>
                        @endforeach
                    </select>
                </div>
                <div class="col mb-3"><label class="form-label" for="requester">Asked by</label><select class="form-select"
                        id="requester" name="requester">
                        @foreach ($requesters as $person)
                            <option value="{{ $person->id }}"
                                @selected(old('requester', auth()->id()) == $person->id)>{{ $person->name }}</option>
                        @endforeach
                    </select></div>
            </div>
            <div class="mb-3"><label class="form-label" for="lost">Path or name, as remembered</label><input
                    class="form-control mono" id="lost" name="lost" maxlength="1000" value="{{ old('lost') }}">
                <div class="form-text">It need not be right: similar names are offered.</div>
            </div>
            <div class="row">
                <div class="col-4 mb-3"><label class="form-label" for="wanted_at">Last good</label><input class="form-control"
                        id="wanted_at" name="wanted_at" maxlength="200" placeholder="Thursday evening" value="{{ old('wanted_at') }}"
                        required autocomplete="off">
                    <div class="form-text">In words, or like 2026-11-12 19:30; in the zone of whoever asks.</div>
                </div>
                <div class="col mb-3"><label class="form-label" for="noticed_at">Noticed</label><input class="form-control"
                        id="noticed_at" name="noticed_at" type="datetime-local" value="{{ old('noticed_at') }}"></div>
                <div class="col mb-3"><label class="form-label" for="due_at">Needed by</label><input class="form-control"
                        id="due_at" name="due_at" type="datetime-local"
                        value="{{ old('due_at', now($zone)->addHours(4)->format('Y-m-d\TH:i')) }}" required></div>
            </div>
            <p class="form-text">Times are in your zone, {{ $zone }} (UTC{{ now($zone)->format('P') }} today).</p>
            <div class="mb-3"><label class="form-label" for="reason">Why it is needed</label>
                <textarea class="form-control" id="reason" name="reason" rows="3" maxlength="5000" required>{{ old('reason') }}</textarea>
                <div class="form-text">Stays on record.</div>
            </div>
            <button class="btn btn-primary">Put it on the desk</button> <a class="btn" href="/" data-key="Backspace">Leave
                it</a>
        </form>
    </main>
</x-layout>
