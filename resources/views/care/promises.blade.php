@use('App\View\CareView')
@use('App\Words')
@php($workload = $view->workload)
@php($zone = $view->zone)
@php($standing = $view->kept->standing)
<h2>Promises</h2>
<dl class="facts wide" id="promised">
    <dt>Newest point</dt>
    <dd>{{ $view->promised($standing?->ageSeconds === null ? null : Words::duration($standing->ageSeconds).' old', 'none is usable',
        $workload->rpo_s) }}</dd>
    <dt>Whole restore</dt>
    <dd>{{ $view->promised($view->restoreInWords(), '', $workload->rto_s) }}</dd>
    <dt>Outside its site</dt>
    <dd>{{ $view->outsideInWords() }}</dd>
</dl>
@php($days = $view->days())
@if ($days !== [])
    <p class="days big" role="img"
        aria-label="{{ $view->daysInWords() }}">
        @foreach ($days as $day)
            <i class="{{ $day->met ? '' : 'missed' }}"
                title="{{ $day->day }}: {{ $day->age_s === null ? 'no usable point'
                    : Words::duration((int) $day->age_s) . ' old' }}"></i>
        @endforeach
    </p>
@endif
@if ($view->canTend)
    <form method="post" action="/workloads/{{ $workload->id }}/promises" class="line-form">@csrf<label
            class="muted" for="rpo">point at most</label><input class="form-control mono" id="rpo"
            name="rpo" size="5" placeholder="26h" value="{{ CareView::span($workload->rpo_s) }}"> <label
            class="muted" for="rto">restore
            in</label><input class="form-control mono" id="rto" name="rto" size="5"
            placeholder="4h" value="{{ CareView::span($workload->rto_s) }}"> <label class="text-nowrap"><input
                type="checkbox" name="outside" value="1" @checked($workload->needs_outside_copy)>
            at another site too</label> <button class="btn btn-sm btn-outline-primary">Settle it</button></form>
@endif
