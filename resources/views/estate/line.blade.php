@use('App\Words')
@php($standing = $line->kept->standing)
<tr>
    <td class="tight"><a data-row
            href="/workloads/{{ $line->workload->id }}">{{ $line->workload->name }}</a>
        <div class="muted small">{{ $line->workload->kind }} at {{ $line->workload->site }},
            {{ Words::count($standing->points, 'point') }}</div>
    </td>
    <td class="tight">
        @if ($line->kept->newestAt() !== null)
            <x-moment :at="$line->kept->newestAt()" :zone="$zone" :offset="false" />
        @else
            <span class="attention">none</span>
        @endif
    </td>
    <td class="num @if ($standing->missesRpo()) attention @endif">
        {{ $standing->ageSeconds === null ? '' : Words::duration($standing->ageSeconds) }}</td>
    <td class="num muted">
        {{ $standing->rpoSeconds === null ? '' : Words::duration($standing->rpoSeconds) }}</td>
    <td class="num @if ($standing->missesRto()) attention @endif">
        {{ $standing->restoreSeconds === null ? '' : Words::duration($standing->restoreSeconds) }}
        @if ($standing->lastRestoreSeconds !== null)
            <div class="muted small">last took {{ Words::duration($standing->lastRestoreSeconds) }}</div>
        @endif
    </td>
    <td class="num muted">
        {{ $standing->rtoSeconds === null ? '' : Words::duration($standing->rtoSeconds) }}</td>
    <td class="tight">
        @if ($line->proven !== null)
        <x-moment :at="$line->proven" :zone="$zone" :offset="false" />@else<span
                class="muted">never</span>
        @endif
    </td>
    <td class="num">{{ $line->open === 0 ? '' : $line->open }}</td>
    <td class="tight"><span class="days" role="img"
            aria-label="{{ $line->daysInWords() }}">
            @foreach ($line->days as $met)
                <i class="{{ $met ? '' : 'missed' }}"></i>
            @endforeach
        </span>
    </td>
    <td class="concerns">
        @forelse ($line->weightiest() as $concern)
            <div class="{{ $concern->isToday() ? 'attention' : '' }}">{{ $concern->what }} <span
                    class="muted">{{ $concern->todo }}</span></div>
        @empty
            <span class="muted">nothing</span>
        @endforelse
        @if ($line->more() > 0)
            <a class="text-decoration-underline small" href="/workloads/{{ $line->workload->id }}/care">and {{ $line->more() }}
                more</a>
        @endif
    </td>
</tr>
