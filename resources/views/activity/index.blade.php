@use('App\Activity\ActivityFilter')
@use('App\Activity\ActivityResult')
@use('App\Activity\ActivitySort')
@use('App\Words')
@php($filter = $view->filter)
@php($zone = $view->user->zone)
<x-layout title="Activity" here="Activity">
    <main id="main" class="page">
        <div class="d-flex align-items-baseline">
            <h1>Activity</h1>
            <nav class="ms-auto" aria-label="Weeks">
                <a class="btn btn-sm btn-outline-primary" data-key="[" href="{{ $filter->weekUrl(-1) }}">Earlier <kbd>[</kbd></a>
                <span class="mx-2">week {{ $filter->from->isoWeek() }}, from {{ $filter->from->format('D j M Y') }}</span>
                @if (!$filter->isThisWeek())
                    <a class="btn btn-sm btn-outline-primary" data-key="]" href="{{ $filter->weekUrl(1) }}">Later <kbd>]</kbd></a>
                    <a class="ms-2 text-decoration-underline" href="{{ $filter->url(week: null) }}">this week</a>
                @endif
            </nav>
        </div>
        <form method="get" action="/activity" class="line-form filter" role="search" aria-label="Activity">
            @isset($filter->said()['week'])
                <input type="hidden" name="week" value="{{ $filter->said()['week'] }}">
            @endisset
            <label class="visually-hidden" for="of-what">What was done</label>
            <select class="form-select w-auto" id="of-what" name="what" data-key="f">
                <option value="">whatever was done</option>
                @foreach (ActivitySort::cases() as $sort)
                    <option value="{{ $sort->value }}" @selected($filter->sort === $sort)>{{ $sort->words() }}</option>
                @endforeach
            </select>
            <label class="visually-hidden" for="of-result">Result</label>
            <select class="form-select w-auto" id="of-result" name="result">
                <option value="">any result</option>
                @foreach (ActivityResult::cases() as $result)
                    <option value="{{ $result->value }}" @selected($filter->result === $result)>{{ $result->words() }}</option>
                @endforeach
            </select>
            <label class="visually-hidden" for="of-kind">Kind</label>
            <select class="form-select w-auto" id="of-kind" name="kind">
                <option value="">any kind</option>
                @foreach ($view->kinds() as $kind)
                    <option value="{{ $kind }}" @selected($filter->kind === $kind)>{{ $kind }}</option>
                @endforeach
            </select>
            <label class="visually-hidden" for="of-workload">Workload</label>
            <select class="form-select w-auto" id="of-workload" name="workload">
                <option value="">any workload</option>
                @foreach ($view->workloads() as $workload)
                    <option value="{{ $workload->id }}" @selected($filter->workload === $workload->id)>{{ $workload->name }}</option>
                @endforeach
            </select>
            <label class="visually-hidden" for="of-person">Person</label>
            <select class="form-select w-auto" id="of-person" name="person">
                <option value="">by anybody</option>
                <option value="{{ ActivityFilter::NOBODY }}"
                    @selected($filter->person === ActivityFilter::NOBODY)>by the clock, or at a terminal</option>
                @foreach ($view->people() as $person)
                    <option value="{{ $person->id }}" @selected($filter->person === (string) $person->id)>{{ $person->name }}</option>
                @endforeach
            </select>
            <button class="btn btn-sm btn-outline-primary">Filter <kbd>f</kbd></button>
            @if (!$filter->isNone())
                <a class="text-decoration-underline" href="/activity">all</a>
            @endif
        </form>
        @if ($view->lines->isEmpty())
            <p class="empty">{{ $filter->isNone() ? 'Nothing was done in this week.' : 'Nothing of that was done in this week.' }}
                @if ($filter->isThisWeek())
                    <a href="{{ $filter->weekUrl(-1) }}">Look at the week before.</a>
                @endif
            </p>
        @else
            <p class="mb-3">
                @foreach ($view->sums as $sum)
                    <span class="me-4 text-nowrap"><a class="text-decoration-underline"
                            href="{{ $filter->url(what: $sum->sort) }}">{{ ActivitySort::from($sum->sort)->words() }}</a>
                        {{ number_format($sum->count) }}, <x-size :bytes="(int) $sum->bytes" />@if ($sum->unwell > 0),
                            <span class="attention">{{ number_format($sum->unwell) }} not well</span>
                        @endif
                    </span>
                @endforeach
            </p>
            <table class="list">
                <thead>
                    <tr>
                        <th>Began</th>
                        <th>What</th>
                        <th>Workload</th>
                        <th>About</th>
                        <th class="num">How much</th>
                        <th class="num">Took</th>
                        <th>Result</th>
                        <th>By</th>
                    </tr>
                </thead>
                <tbody>
                    @foreach ($view->lines as $line)
                        <tr>
                            <td class="tight"><a data-row href="{{ $line->url() }}"><x-moment :at="$line->at" :zone="$zone"
                                        :offset="false" /></a></td>
                            <td class="tight">{{ $line->sort->words() }}</td>
                            <td class="tight">{{ $line->workloadName }}</td>
                            <td class="mono">{{ $line->about }}</td>
                            <td class="num tight">{{ $line->things === 0 ? '' : $line->sort->count($line->things) . ', ' }}<x-size
                                    :bytes="$line->bytes" /></td>
                            <td class="num tight">{{ $line->seconds === null ? '' : Words::duration($line->seconds) }}</td>
                            <td class="tight">
                                <x-activity-result :result="$line->result" />
                            </td>
                            <td @class(['tight', 'muted' => $line->person === null])>{{ $line->person ?? 'clock, terminal' }}</td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            {{ $view->lines->links() }}
        @endif
    </main>
</x-layout>
