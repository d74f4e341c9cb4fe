@php($workload = $view->workload)
@php($leftOut = $view->leftOut())
<h3 class="h6 mt-3" id="left-out">Left out</h3>
@if ($leftOut->all === [])
    <p class="muted">Nothing is left out of its sets on purpose.</p>
@else
    <table class="list">
        <tbody>
            @foreach ($leftOut->all as $one)
                <tr>
                    <td class="mono">{{ $one->pattern }}</td>
                    <td>{{ $one->because }}</td>
                    @if ($view->canTend)
                        <td class="tight">
                            <form method="post" action="/workloads/{{ $workload->id }}/exclusions">@csrf<input type="hidden"
                                    name="pattern" value="{{ $one->pattern }}"><button class="link" name="do" value="end"
                                    aria-label="Take {{ $one->pattern }} into its sets again">Take it in again</button></form>
                        </td>
                    @endif
                </tr>
            @endforeach
        </tbody>
    </table>
@endif
@if ($view->canTend)
    <details class="mt-2" @if ($errors->has('pattern')) open @endif>
        <summary>Leave something out</summary>
        <form method="post" action="/workloads/{{ $workload->id }}/exclusions" class="line-form">@csrf<label class="muted"
                for="pattern">what</label><input class="form-control mono" id="pattern" name="pattern" size="20" maxlength="500" required
                placeholder="{{ $view->leftOutLike() }}" value="{{ old('pattern') }}" autocomplete="off"> <label class="muted"
                for="because">because</label><input class="form-control" id="because" name="because" size="28" maxlength="200" required
                value="{{ old('because') }}"> <button class="btn btn-sm btn-outline-primary" name="do" value="add">Leave it out</button>
        </form>
        <p class="muted small">A path from the top with all that is in it, or a name wherever it is, as <span class="mono">*.tmp</span>.
            Sets that are there keep it; those that are made from now on do not have it, and say so.</p>
    </details>
@endif
