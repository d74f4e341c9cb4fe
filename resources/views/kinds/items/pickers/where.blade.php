@use('App\Kinds\Items\Order\ItemForm')
@use('App\Kinds\Items\Order\Sending')
@use('App\Words')
<h2>
    Where <kbd>d</kbd></h2>
@php($said = $sheet->said)
@php($servers = $view->servers())
<form method="post" action="{{ $view->settleUrl() }}">@csrf<input type="hidden" name="settle" value="where">
    <fieldset class="mb-3">
        <legend class="h6">Into</legend>
        <div class="choice"><input type="radio" id="to-own" name="destination" value="own"
                @if ($said->destination === 'own') checked data-focus @endif><label for="to-own">the mailbox that each came from</label>
            <div class="form-text">Messages with the date they were received, flags and keywords; appointments and contacts into their own
                calendar or book.</div>
        </div>
        <div class="choice"><input type="radio" id="to-mailbox-way" name="destination" value="mailbox"
                @if ($said->destination === 'mailbox') checked data-focus @endif>
            <div class="with-field"><label for="to-mailbox-way">another mailbox, named</label> <input class="form-control mono w-auto"
                    id="to-mailbox" name="to_mailbox" size="36" maxlength="300" aria-label="Name of the other mailbox"
                    value="{{ old('to_mailbox', $said->mailbox) }}" autocomplete="off"></div>
            <div class="form-text">Its owner sees what comes: say it to them first.</div>
        </div>
        <div class="choice"><input type="radio" id="to-files" name="destination" value="files"
                @if ($said->destination === 'files') checked data-focus @endif>
            <div class="with-field"><label for="to-files">a new folder of files, as</label> <select class="form-select w-auto" id="form"
                    name="form" aria-label="As what">
                    @foreach (ItemForm::cases() as $form)
                        <option value="{{ $form->value }}" @selected($said->form === $form->value)>{{ $form->words() }}</option>
                    @endforeach
                </select></div>
            <div class="form-text">Below the folder “restored” of this machine; mail and calendar programs open each of these forms. A bag
                for the law is sealed, and waits for a second person.</div>
        </div>
        <div class="choice"><input type="radio" id="to-send" name="destination" value="send"
                @if ($said->destination === 'send') checked data-focus @endif>
            <div class="with-field"><label for="to-send">a message, with each attached as it was, to</label> <input
                    class="form-control mono w-auto" id="send-to" name="send_to" type="email" size="32" maxlength="254"
                    aria-label="To whom" autocomplete="off"
                    value="{{ old('send_to', $said->sendTo === '' ? $request->requester->email : $said->sendTo) }}"></div>
            <div class="form-text">At most {{ Sending::MOST }} items and {{ Words::size(Sending::LARGEST) }}. It cannot be put back.</div>
        </div>
    </fieldset>
    <p><label for="to-folder">Folder, calendar or book of the mailbox</label> <input class="form-control mono" id="to-folder"
            name="to_folder" maxlength="600" placeholder="the one that each lay in; with / between one and what is below it"
            value="{{ old('to_folder', $said->folder) }}" autocomplete="off"></p>
    <p><label for="server">Mail server</label>
        @if ($servers->isEmpty())
            <span class="muted d-block">None is known that you may write to: <span class="mono">bin/kaiseki mail-server add NAME
                    --imap= --dav= --user=</span></span>
        @else
            <select class="form-select w-auto" id="server" name="server">
                <option value="">{{ $sheet->server === null ? 'not settled' : 'where the mailboxes are' }}</option>
                @foreach ($servers as $server)
                    <option value="{{ $server->name }}" @selected($said->server === $server->name)>{{ $server->name }},
                        {{ $server->whereabouts() }}</option>
                @endforeach
            </select>
        @endif
    </p>
    <p><label><input type="checkbox" id="awaits" name="awaits" value="1" @checked($said->awaits)> If a mailbox is not there, have it
            made</label> <span class="form-text">{{ $sheet->server?->makes === null
                ? 'The run waits until whoever runs the server has made it, and goes on by itself.'
                : 'It is made by the program that whoever runs the server has put there, once a second person has said yes.' }}</span></p>
    <button class="btn btn-primary">Settle it</button>
</form>
