@use('App\Kinds\Items\Order\ItemCount')
@use('App\Kinds\Items\Run\ItemsCarrier')
@use('App\Words')
@php($outcome = $run->outcome ?? [])
@php($plan = $run->plan)
<x-run-page :run="$run" go-on-hint="what it had laid is there, and is not laid again" back-title="Take away again what it laid"
    :beside="[]">
    <x-slot:came>{{ ItemCount::came($outcome) }}, {{ Words::size($outcome['bytes'] ?? 0) }}</x-slot:came>
    <x-slot:wrong>what is missing or different stands below.</x-slot:wrong>
    <x-slot:set-aside>{{ Words::count($outcome['set_aside'] ?? 0, 'thing') }} that it replaced</x-slot:set-aside>
    <x-slot:facts>
        @if ($run->state === 'done')
            <dt>Is now in</dt>
            <dd>
                @if ($plan['server'] !== '')
                    {{ $plan['server'] }}{{ $plan['mailbox'] === '' ? ', each in its own mailbox' : ', ' . $plan['mailbox'] }}
                @elseif (($plan['send'] ?? '') !== '')
                    a message to {{ $plan['send'] }}
                @else
                    <span class="mono">{{ rawurldecode($plan['target']) }}</span>
                    @can('download', $run)
                        @foreach ((new ItemsCarrier)->handsOver($run) as $address => $words)
                            <br><a class="btn btn-sm btn-outline-primary mt-1" hx-boost="false" href="{{ $address }}" download>Take
                                {{ $words }}</a>
                        @endforeach
                    @endcan
                @endif
            </dd>
            <dt>Point</dt>
            <dd><span class="mono">{{ $run->set_name }}</span></dd>
            @if ($outcome['there'] > 0)
                <dt>Lay there already</dt>
                <dd>{{ Words::count($outcome['there'], 'item') }}, and were left</dd>
            @endif
        @endif
    </x-slot:facts>
    <x-slot:back-told>{{ Words::count($outcome['put_back']['removed'] ?? 0, 'item') }} that it had laid went,
        {{ number_format($outcome['put_back']['returned'] ?? 0) }} that it had replaced are there again.</x-slot:back-told>
    <x-slot:back-means>
        <p class="mb-1">What this run laid is removed for good, and the folders that it made, if nothing else lies in them; what it
            replaced comes again. What somebody has moved, deleted, flagged or changed since is left, and named here.</p>
        <p class="mb-1"><label><input type="checkbox" name="also_changed" value="1"> Also those that were flagged or changed
                since</label></p>
    </x-slot:back-means>
    @if ($run->state === 'done')
        @include('kinds.items.folders-now', ['folders' => $outcome['folders']])
        @include('kinds.items.seen-as-user')
        @if ($outcome['left_out'] !== [])
            <h3 class="h6 attention">Did not come back: {{ number_format($outcome['left_out_count']) }}</h3>
            <table class="list mb-3">
                @foreach (array_slice($outcome['left_out'], 0, 100) as $row)
                    <tr>
                        <td>{{ $row['path'] }}</td>
                        <td>{{ $row['because'] }}</td>
                    </tr>
                @endforeach
            </table>
        @endif
    @endif
</x-run-page>
