@use('App\Kinds\KindIsMissing')
<p class="attention">{{ ucfirst(KindIsMissing::words($run->workload->kind)) }}.</p>
<p class="muted">{{ $run->plan['sentence'] ?? '' }}</p>
