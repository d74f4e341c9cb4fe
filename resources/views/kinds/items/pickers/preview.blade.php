@use('App\Kinds\Items\Order\ItemCount')
@use('App\Words')
<h2>
    Preview <kbd>p</kbd></h2>
@if ($sheet->chosen === [])
    <p class="empty">Pick something first; then what the run would do stands here.</p>
@else
    <table class="list w-auto mb-3">
        <thead>
            <tr>
                <th class="pe-4">Came from</th>
                <th class="pe-4">Folder</th>
                <th class="num pe-4">Items</th>
                <th>Goes to</th>
            </tr>
        </thead>
        <tbody>
            @foreach ($sheet->byFolder() as $mailbox => $folders)
                @foreach ($folders as $folder => $count)
                    <tr>
                        <td class="mono pe-4">{{ $mailbox }}</td>
                        <td class="mono pe-4">{{ $folder }}</td>
                        <td class="num pe-4">{{ number_format($count) }}</td>
                        <td class="mono">
                            @if ($sheet->order === null)
                                <span class="muted">not settled</span>
                            @elseif ($sheet->order->isToServer())
                                {{ $sheet->order->mailbox === '' ? $mailbox : $sheet->order->mailbox }}
                                / {{ $sheet->order->folder === '' ? $folder : $sheet->order->folder }}
                            @else
                                {{ $sheet->order->send === '' ? $sheet->order->target : $sheet->order->send }}
                            @endif
                        </td>
                    </tr>
                @endforeach
            @endforeach
        </tbody>
    </table>
    <p>{{ ItemCount::of($sheet->chosen) }}, {{ Words::size($sheet->bytes()) }}.
        {{ $sheet->order?->replaces() ? 'What says something else there now is set aside, and comes again when the run is put back.'
            : 'Nothing that is there is changed or written over.' }}</p>
    @if (count($sheet->chosen) <= 20)
        <ul class="plain-list mb-3">
            @foreach ($sheet->chosen as $one)
                <li>{{ $one->title() }}
                    <span class="muted">{{ implode(', ', array_filter([$one->item->sort->noun(), $one->item->sender])) }}</span></li>
            @endforeach
        </ul>
    @endif
    @if ($sheet->erased !== [])
        <h3 class="h6 attention">Stays away: {{ Words::count(count($sheet->erased), 'item') }}</h3>
        <ul class="plain-list mb-3">
            @foreach (array_slice($sheet->erased, 0, 20) as [$one, $why])
                <li>{{ $one->title() }} <span class="muted">{{ $why }}</span></li>
            @endforeach
        </ul>
    @endif
    <h3 class="h6">What was found there</h3>
    <p class="muted">See “Checked before the run” beside.</p>
@endif
