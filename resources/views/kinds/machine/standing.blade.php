@use('App\Kinds\Machines\Page\MachineView')
@use('App\Words')
@php($standing = $view->standing)
@php($isSettled = $standing->isBeingSettled())
<section id="standing" class="standing mb-3">
    <p class="mb-1"><a class="mono text-decoration-underline"
            href="{{ MachineView::address($standing->hypervisor, $standing->machine) }}">{{ $standing->machine }}</a> at <span
            class="mono">{{ $standing->hypervisor->name }}</span>
        {{ $view->isRunning() ? 'runs' : 'is off' }}, and reads what it did not write from its sets, since
        <x-moment :at="$standing->created_at" :zone="$zone" />.
        @if (!$view->isServed)
            <span class="attention">Nobody serves its disks now: what it reads waits.</span>
        @endif
    </p>
    @if ($standing->until !== null)
        <p class="mb-1 @if ($standing->isOverdue()) attention @endif">Somebody wanted to have decided by
            <x-moment :at="$standing->until" :zone="$zone" />.</p>
    @endif
    <table class="list w-auto mb-2">
        <thead>
            <tr>
                <th class="pe-4">Disk</th>
                <th class="num pe-4">Size</th>
                <th class="pe-4">Is read from</th>
                <th>Comes to</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($view->disks() as $disk)
                <tr>
                    <td class="mono pe-4">{{ $disk->name }}</td>
                    <td class="num pe-4"><x-size :bytes="$disk->size" /></td>
                    <td class="pe-4">{{ $disk->isServed ? 'its sets' : 'its own storage' }}</td>
                    <td>
                        @if ($isSettled || $view->isApart())
                            <span class="mono">{{ $disk->goes }}</span>
                        @elsecan('stop', $standing->run)
                            <select class="form-select form-select-sm w-auto" name="storages[{{ $disk->name }}]" form="settle-form"
                                aria-label="Storage that {{ $disk->name }} comes to">
                                @foreach ($view->storages() as $storage)
                                    <option value="{{ $storage->name }}" @selected($storage->name === $disk->goes)>{{ $storage->name }},
                                        {{ $storage->name === $disk->lies ? 'where it lies' : Words::size($storage->free) . ' free' }}
                                    </option>
                                @endforeach
                            </select>
                        @else
                            <span class="mono">{{ $disk->goes }}</span>
                        @endif
                    </td>
                </tr>
            @endforeach
        </tbody>
    </table>
    <p class="muted">{{ Words::size($view->read->bytes) }} read from its sets so far, each block compared with its digest;
        {{ Words::size($view->held()) }} of its own.
        @if ($view->read->refused > 0)
            <span class="attention">{{ Words::count($view->read->refused, 'time') }} something could not be given; the last was
                {{ $view->read->why }}.</span>
        @endif
    </p>
    @if ($view->isApart())
        <p class="muted small mb-0">It can be brought to its own storage once it is released out of its annex.</p>
    @elsecan('stop', $standing->run)
        @if ($standing->settle_at !== null)
            <p class="mb-1">It is settled from <x-moment :at="$standing->settle_at" :zone="$zone" /> on.</p>
        @endif
        <form method="post" action="/runs/{{ $standing->run_id }}/settle" class="inline" id="settle-form" data-form="settle">@csrf
            <label for="settle-limit">No faster than</label><input class="form-control w-auto num" id="settle-limit" name="limit"
                size="6" inputmode="numeric" value="{{ old('limit', $standing->limit) }}"> MB a second
            @if (!$isSettled)
                <label for="settle-at">beginning</label><input class="form-control w-auto" id="settle-at" type="datetime-local"
                    name="at" value="{{ old('at') }}">
            @endif
            <button class="btn btn-sm {{ $isSettled ? 'btn-outline-primary' : 'btn-primary' }}"
                id="settle">{{ $isSettled ? 'Go on at that speed' : 'Bring it to its own storage' }}</button>
        </form>
        @if (!$isSettled)
            <p class="muted small mb-0">It goes on meanwhile. Left empty, it begins now and goes as fast as it can.</p>
        @endif
    @endif
</section>
