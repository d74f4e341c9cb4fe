@use('App\Words')
<h2>
    What <kbd>t</kbd></h2>
<p class="hint">Each disk becomes an image of its own, as it was at the point.</p>
@if ($view->disks() === [])
    <p class="empty">There is no usable point yet: choose one under When.</p>
@else
    <form method="post" action="/requests/{{ $request->id }}/machine">@csrf<input type="hidden" name="settle" value="disks">
        <table class="list mb-3">
            <thead>
                <tr>
                    <th class="pe-4">Disk</th>
                    <th class="num">Size</th>
                    <th class="num">In use</th>
                    <th class="num">In this set</th>
                    <th>Read from</th>
                    <th>Cannot be had</th>
                </tr>
            </thead>
            <tbody>
                @foreach ($view->disks() as $name => $disk)
                    <tr>
                        <td class="pe-4"><label class="mono"><input type="checkbox" name="disks[]" value="{{ $name }}"
                                    @checked($view->isPicked($name)) @if ($loop->first) data-focus @endif> {{ $name }}</label></td>
                        <td class="num">{{ Words::size($disk->size) }}</td>
                        <td class="num">{{ Words::size($view->used($name)) }}</td>
                        <td class="num">{{ Words::size($disk->held) }}</td>
                        <td>{{ Words::count($view->chainLength($name), 'image') }}</td>
                        <td @if ($view->lost($name) > 0) class="attention" @endif>
                            {{ $view->lost($name) === 0 ? '' : Words::count($view->lost($name), 'block') . ' of 64 KiB' }}</td>
                    </tr>
                @endforeach
            </tbody>
        </table>
        <button class="btn btn-primary">Settle it</button>
    </form>
@endif
