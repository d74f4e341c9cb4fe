@use('App\Words')
<table class="list w-auto mb-4">
    <tbody>
        @foreach ($machine->settings->words() as $what => $is)
            @if ($what !== 'disks')
                <tr>
                    <th class="pe-4" scope="row">{{ ucfirst($what) }}</th>
                    <td>{{ $is }}</td>
                </tr>
            @endif
        @endforeach
    </tbody>
</table>
<h2>Disks</h2>
<table class="list w-auto">
    <thead>
        <tr>
            <th class="pe-4">Disk</th>
            <th class="num pe-4">Size</th>
            <th class="num pe-4">Taken</th>
            <th class="pe-4">On</th>
            <th>Newest set with it</th>
        </tr>
    </thead>
    <tbody>
        @foreach ($machine->settings->disks as $disk)
            @php($set = $view->newestOf($disk))
            <tr>
                <td class="mono pe-4">{{ $disk->name }} <span class="muted">{{ $disk->bus->value }}</span></td>
                <td class="num pe-4">{{ Words::size($disk->size) }}</td>
                <td class="num pe-4">{{ Words::size($machine->held[$disk->name] ?? 0) }}</td>
                <td class="pe-4">{{ $machine->storages[$disk->name] ?? '' }}</td>
                <td>
                    @if ($set !== null)
                        <a class="text-decoration-underline" href="/sets/{{ $set->id }}"><x-moment
                                :at="$set->captured_at" :zone="$zone" :offset="false" /></a>
                    @elseif ($view->isLeftOut($disk))
                        <span class="muted">left out by rule</span>
                    @else
                        <span class="attention">none</span>
                    @endif
                </td>
            </tr>
        @endforeach
    </tbody>
</table>
