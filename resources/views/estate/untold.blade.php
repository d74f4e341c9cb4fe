<tr>
    <td class="tight"><a data-row href="/workloads/{{ $line->workload->id }}">{{ $line->workload->name }}</a>
        <div class="muted small">{{ $line->workload->kind }} at {{ $line->workload->site }}</div>
    </td>
    @if ($line->kept->failure === null)
        <td colspan="9" class="muted">It was not looked at yet.</td>
    @else
        <td colspan="9" class="attention">How it stands cannot be told: its kind fails. {{ $line->kept->failure }}</td>
    @endif
</tr>
