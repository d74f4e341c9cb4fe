@use('App\Words')
@use('Kaiseki\Core\Machine\ImageFormat')
<h2>
    Preview <kbd>p</kbd></h2>
<p>{{ $sheet->sentence($frame->zone) }}</p>
@if ($sheet->isFiles())
    <ul class="plain-list">
        @foreach ($sheet->said->selection() as $path)
            <li><x-path :of="$path" /></li>
        @endforeach
    </ul>
    <p class="muted">With all that is in them, {{ $sheet->conflict()?->words() }}; each is compared with what stands there when
        it is put in place.</p>
@elseif ($sheet->isAtHypervisor)
    @include('kinds.machine.placed')
@elseif ($sheet->plan !== null)
    <table class="list w-auto mb-3">
        <thead>
            <tr>
                <th class="pe-4">Image</th>
                <th class="num">Disk</th>
                <th class="num">Up to</th>
                <th class="num">Left as zeros</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($sheet->plan->disks as $name => $disk)
                <tr>
                    <td class="mono pe-4">{{ $sheet->plan->order->fileOf($name) }}</td>
                    <td class="num">{{ Words::size($disk->plan()->size()) }}</td>
                    <td class="num">{{ Words::size($view->used($name)) }}</td>
                    <td class="num @if ($view->lost($name) > 0) attention @endif">
                        {{ $view->lost($name) === 0 ? '' : Words::count($view->lost($name), 'block') }}</td>
                </tr>
            @endforeach
            <tr>
                <td class="mono pe-4">{{ $sheet->plan->order->digests() }}</td>
                <td colspan="3" class="muted">{{ $view->format() === ImageFormat::Raw ? 'the digests of the lists of their
                    blocks, which lie beside them'
                    : 'their digests' }}, for b2sum --length=256 --check</td>
            </tr>
        </tbody>
    </table>
@endif
@foreach ($sheet->blockers() as $blocker)
    <p class="attention mb-1">{{ $blocker }}</p>
@endforeach
