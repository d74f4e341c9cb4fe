@use('App\Kinds\Items\Order\ItemConflict')
@use('App\Runs\SetAsides')
@use('App\Words')
@php($refused = $order->refused($sheet))
@php($back = $order->box->page())
<x-layout title="Bring it back" here="Yours">
    <main id="main" class="page">
        <h1>Bring it back</h1>
        <p class="order-shown">{{ $sheet->sentence($order->user->zone) }}</p>
        <div class="scroll short mb-3" tabindex="0" role="region" aria-label="What comes back">
            <table class="list w-auto">
                <tbody>
                    @foreach ($sheet->chosen as $one)
                        <tr>
                            <td class="pe-4">{{ $one->title() }}</td>
                            <td class="muted pe-4">{{ $one->span->folder }}</td>
                            <td class="num"><x-size :bytes="$one->item->size" /></td>
                        </tr>
                    @endforeach
                    @foreach ($sheet->erased as [$one, $why])
                        <tr>
                            <td class="pe-4">{{ $one->title() }}</td>
                            <td class="attention pe-4" colspan="2">stays away: it had to be erased</td>
                        </tr>
                    @endforeach
                </tbody>
            </table>
        </div>
        @if ($refused !== null)
            <p class="attention" role="alert">{{ $refused }}</p>
            <p><a href="{{ $back }}" data-key="Backspace">Back to the list</a></p>
        @else
            <form method="get" action="/own/{{ $order->box->workload->id }}/order" class="mb-3"><input type="hidden" name="mailbox"
                    value="{{ $order->box->name }}">
                <input type="hidden" name="items" value="{{ implode(',', $order->items) }}">
                <div class="choice"><input type="radio" id="missing-only" name="conflict" value="{{ ItemConflict::MissingOnly->value }}"
                        @checked($order->conflict === ItemConflict::MissingOnly)><label for="missing-only">Only what is missing
                        comes back</label>
                    <div class="form-text">What is there stays as it is.</div></div>
                <div class="choice"><input type="radio" id="replace" name="conflict" value="{{ ItemConflict::Replace->value }}"
                        @checked($order->conflict === ItemConflict::Replace)><label for="replace">What says something else now is
                        replaced</label>
                    <div class="form-text">An appointment or a contact becomes what it was; how it is now is kept for
                        {{ SetAsides::DAYS }} days, and can be put back.</div></div>
                <div class="inline mt-2"><label for="own-folder">Into the folder</label><input class="form-control mono w-auto"
                        id="own-folder" name="folder" size="30" maxlength="600" value="{{ $order->folder }}" placeholder="that it was in">
                    <button class="btn btn-sm btn-outline-primary" id="settle">Settle it</button></div>
            </form>
            <form method="post" action="/own/{{ $order->box->workload->id }}/order">@csrf
                <input type="hidden" name="mailbox" value="{{ $order->box->name }}">
                <input type="hidden" name="conflict" value="{{ $order->conflict->value }}">
                <input type="hidden" name="folder" value="{{ $order->folder }}">
                <input type="hidden" name="seen" value="{{ $sheet->fingerprint() }}">
                <input type="hidden" name="items" value="{{ implode(',', $order->items) }}">
                @if ($sheet->needsApproval())
                    <p class="assumed">A second person must say yes to it first.</p>
                @endif
                <button class="btn btn-primary" id="bring" data-focus>Yes, bring back
                    {{ Words::count(count($sheet->chosen), 'item') }}, <x-size :bytes="$sheet->bytes()" /></button>
                <a class="ms-3" href="{{ $back }}" data-key="Backspace">No, back to the list</a>
            </form>
        @endif
    </main>
</x-layout>
