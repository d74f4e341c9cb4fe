@use('App\Models\TrailEntry')
@use('App\Models\TrailSort')
@use('App\Trail\TrailRule')
<x-layout title="Trail" here="Trail">
    <main id="main" class="page">
        <div class="d-flex align-items-baseline">
            <h1>Trail</h1>
            <a class="ms-auto text-decoration-underline" href="/trail.jsonl?{{ $filter->address() }}">Take it as JSON Lines</a>
        </div>
        <form class="line-form filter" action="/trail" role="search" aria-label="Trail">
            <label class="visually-hidden" for="of">Words</label><input class="form-control" id="of" name="of" size="24"
                maxlength="200" placeholder="words, a person, an address" value="{{ $filter->words }}" data-key="f" autocomplete="off">
            <label class="visually-hidden" for="sort">About</label><select class="form-select w-auto" id="sort" name="sort">
                <option value="">about anything</option>
                @foreach (TrailSort::cases() as $sort)
                    <option value="{{ $sort->value }}" @selected($filter->sort === $sort)>{{ $sort->words() }}</option>
                @endforeach
            </select>
            <label class="visually-hidden" for="way">By way of</label><select class="form-select w-auto" id="way" name="way">
                <option value="">any way</option>
                @foreach (TrailEntry::WAYS as $way)
                    <option value="{{ $way }}" @selected($filter->way === $way)>{{ $way }}</option>
                @endforeach
            </select>
            <label class="visually-hidden" for="result">Result</label><select class="form-select w-auto" id="result" name="result">
                <option value="">any result</option>
                @foreach (TrailEntry::RESULTS as $result)
                    <option value="{{ $result }}" @selected($filter->result === $result)>{{ $result }}</option>
                @endforeach
            </select>
            <label class="muted" for="from">from</label><input class="form-control mono" id="from" name="from" size="10"
                pattern="\d{4}-\d\d-\d\d" placeholder="2026-11-01" value="{{ $filter->from }}" autocomplete="off">
            <label class="muted" for="until">to</label><input class="form-control mono" id="until" name="until" size="10"
                pattern="\d{4}-\d\d-\d\d" placeholder="2026-11-30" value="{{ $filter->until }}" autocomplete="off">
            <button class="btn btn-sm btn-outline-primary">Show</button>
            @if ($filter->address() !== '')
                <a href="/trail">all</a>
            @endif
        </form>
        @if ($entries->isEmpty())
            <p class="empty">{{ $filter->address() === '' ? 'Nothing was done yet.' : 'No entry fits. Take a filter away.' }}</p>
        @else
            <table class="list">
                <thead>
                    <tr>
                        <th>When</th>
                        <th>Who</th>
                        <th>By way of</th>
                        <th>What</th>
                        <th>Result</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($entries as $entry)
                        <tr>
                            <td class="tight"><x-moment :at="$entry->at" :zone="$zone" :offset="false" /></td>
                            <td class="tight">{{ $entry->actor ?? 'not kept then' }}</td>
                            <td class="tight muted">{{ $entry->way }}{{ $entry->address === null ? '' : ", {$entry->address}" }}</td>
                            <td>
                                {{ $entry->what }}
                                @if ($entry->request_id !== null)
                                    <a class="muted" href="/requests/{{ $entry->request_id }}">request {{ $entry->request_id }}</a>
                                @endif
                            </td>
                            <td class="tight @if ($entry->result !== 'done') attention @endif">{{ $entry->result }}</td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            <nav class="line-form mt-2" aria-label="Pages">
                @if ($entries->previousPageUrl() !== null)
                    <a class="btn btn-sm btn-outline-primary" data-key="]" href="{{ $entries->previousPageUrl() }}">Later <kbd>]</kbd></a>
                @endif
                @if ($entries->nextPageUrl() !== null)
                    <a class="btn btn-sm btn-outline-primary" data-key="[" href="{{ $entries->nextPageUrl() }}">Earlier <kbd>[</kbd></a>
                @endif
            </nav>
        @endif
        <p class="muted mt-3">Every minute what is new is sealed, and the end of each day is signed and written to every store of ours.
            It is kept {{ TrailRule::words(TrailRule::days()) }}.
            Whether all is as it was sealed: <span class="mono">bin/kaiseki trail check</span></p>
    </main>
</x-layout>
