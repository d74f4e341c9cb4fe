<p class="attention">{{ ucfirst(\App\Kinds\KindIsMissing::words($run->workload->kind)) }}.</p>
<p class="muted">{{ $run->plan['sentence'] ?? '' }}</p>
