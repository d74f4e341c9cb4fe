@use('App\Words')
@php($workload = $view->workload)
@php($zone = $view->zone)
@php($expiry = $view->kept->expiry)
<h3 class="h6 mt-3">What expires next</h3>
@if ($view->kept->at() === null)
    <p class="muted">It was not looked at yet.</p>
@elseif ($expiry === null || $expiry->copies === 0)
    <p class="muted">Nothing.</p>
@else
    <p>{{ Words::count($expiry->copies, 'copy', 'copies') }}, {{ Words::size($expiry->bytes) }};
        {{ Words::count($expiry->goneSets, 'point goes', 'points go') }} with them. None of it is needed by what stays, or by an open
        request.</p>
    <div class="scroll short" tabindex="0" role="region" aria-label="What expires next">
        <table class="list">
            <tbody>
                @foreach ($expiry->lines as $line)
                    <tr>
                        <td class="tight"><x-moment :at="$line->at" :zone="$zone" :offset="false" /></td>
                        <td class="tight">{{ $line->level }}</td>
                        <td class="tight">{{ $line->store }}</td>
                        <td class="num"><x-size :bytes="$line->bytes" /></td>
                    </tr>
                @endforeach
            </tbody>
        </table>
    </div>
    @if ($expiry->copies > count($expiry->lines))
        <p class="muted">and {{ number_format($expiry->copies - count($expiry->lines)) }} more.</p>
    @endif
    @if ($view->canTend)
        <details class="mt-2">
            <summary>Delete these</summary>
            <form method="post" action="/workloads/{{ $workload->id }}/expire" class="line-form">@csrf
                <input type="hidden" name="plan" value="{{ $expiry->fingerprint }}">
                <span>Deleted copies do not come back.
                    @if ($expiry->leavesNothing)
                        <strong class="attention">No point of {{ $workload->name }} would be left.</strong> Write its name if that is
                        meant: <input class="form-control mono" name="everything" aria-label="The name of the workload" size="16">
                    @endif
                </span>
                <button class="btn btn-sm btn-primary">Yes, delete {{ Words::count($expiry->copies, 'copy', 'copies') }}</button>
            </form>
        </details>
    @endif
@endif
