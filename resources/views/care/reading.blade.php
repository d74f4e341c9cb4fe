@use('App\Words')
@php($workload = $view->workload)
@php($zone = $view->zone)
<h2>Reading back</h2>
<div id="reading">
@php($coverage = $view->coverage())
<p>{{ number_format($coverage->checked) }} of {{ Words::count($coverage->copies, 'copy', 'copies') }}
    {{ $coverage->checked === 1 ? 'was' : 'were' }} found right when read
    back{{ $coverage->oldest === null ? '' : ', the longest ago on '
        . Words::moment($coverage->oldest, $zone, false) }}.
</p>
@php($reading = $view->readingBack())
@if ($reading !== null)
    <p class="assumed" role="status">{{ $reading->done }} of {{ $reading->all }} read back.
        @if ($reading->wrong > 0)
            <span class="attention">{{ $reading->wrong }} not right.</span>
        @endif
    </p>
@elseif ($view->canTend)
    <form method="post" action="/workloads/{{ $workload->id }}/read-back">@csrf<button
            class="btn btn-sm btn-outline-primary">Read all copies back</button></form>
@endif
@php($checks = $view->checks())
@if ($checks->isNotEmpty())
    <table class="list mt-2">
        <tbody>
            @foreach ($checks as $check)
                <tr>
                    <td class="tight"><x-moment :at="$check->at" :zone="$zone" :offset="false" /></td>
                    <td><span class="mono">{{ $check->set_name }}</span> on {{ $check->store_name }}: <span
                            class="{{ $check->isRight() ? 'muted'
                                : 'attention' }}">{{ $check->result }}{{ $check->because === null ? ''
                                : ". {$check->because}" }}</span>
                    </td>
                </tr>
            @endforeach
        </tbody>
    </table>
@endif
</div>
