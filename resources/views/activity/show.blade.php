@use('App\Activity\ActivityLog')
@use('App\Words')
<x-layout :title="ucfirst($line->sort->words())" here="Activity">
    <main id="main" class="page">
        <h1>{{ ucfirst($line->sort->words()) }}: {{ $line->workloadName }}
            <span class="mono fs-6 fw-normal muted">{{ $line->about }}</span></h1>
        <dl class="facts">
            <dt>Began</dt>
            <dd><x-moment :at="$line->at" :zone="$zone" /></dd>
            <dt>Took</dt>
            <dd>{{ $line->seconds === null ? 'not over, or not measured' : Words::duration($line->seconds) }}</dd>
            <dt>How much</dt>
            <dd>{{ $line->sort->count($line->things) }}, <x-size :bytes="$line->bytes" /></dd>
            <dt>Result</dt>
            <dd><x-activity-result :result="$line->result" /></dd>
            <dt>By</dt>
            <dd>{{ $line->person ?? 'the clock, or at a terminal' }}</dd>
        </dl>
        <h2>Log</h2>
        @php($lines = $log->lines())
        @if ($lines === [])
            <p class="empty">Nothing was written down.</p>
        @else
            <table class="list w-auto">
                <tbody>
                    @foreach ($lines as $one)
                        <tr>
                            <td class="tight muted pe-3">
                                @if ($one->at !== null)
                                    <x-moment :at="$one->at" :zone="$zone" :offset="false" />
                                @endif
                            </td>
                            <td @class(['attention' => $one->isWarning])>{{ $one->isWarning ? 'warning: ' : '' }}{{ $one->words }}</td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
            @if ($log->count() > ActivityLog::MOST)
                <p class="muted">and {{ number_format($log->count() - ActivityLog::MOST) }} more lines.</p>
            @endif
        @endif
        <p class="mt-3">
            @if ($log->page !== null)
                <a class="btn btn-outline-primary" href="{{ $log->page }}">See all of it</a>
            @endif
            <a class="btn" href="/activity" data-key="Backspace">All activity</a>
        </p>
    </main>
</x-layout>
