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
        <div class="choice"><input type="radio" id="to-own" name="destination" value="own" @checked($said->destination === 'own')
                data-focus><label for="to-own">the mailbox that each came from</label>
            <div class="form-text">Messages with the date they were received, flags and keywords; appointments and contacts into their own
                calendar or book.</div>
        </div>
        <div class="choice"><input type="radio" id="to-mailbox-way" name="destination" value="mailbox"
                @checked($said->destination === 'mailbox')><label for="to-mailbox-way">another mailbox</label>
            <div class="form-text">Its owner sees what comes: say it to them first.</div>
        </div>
        <p class="schema-name"><label class="muted" for="to-mailbox">named</label> <input
                class="form-control mono w-auto d-inline-block" id="to-mailbox" name="to_mailbox" size="36" maxlength="300"
                value="{{ old('to_mailbox', $said->mailbox) }}" autocomplete="off"></p>
        <div class="choice"><input type="radio" id="to-files" name="destination" value="files"
                @checked($said->destination === 'files')><label for="to-files">a new folder of files</label>
            <div class="form-text">Below the folder “restored” of this machine; mail and calendar programs open each of these forms. A bag
                for the law is sealed, and waits for a second person.</div>
        </div>
        <p class="schema-name"><label class="muted" for="form">as</label> <select class="form-select w-auto d-inline-block"
                id="form" name="form">
                @foreach (ItemForm::cases() as $form)
                    <option value="{{ $form->value }}" @selected($said->form === $form->value)>{{ $form->words() }}</option>
                @endforeach
            </select></p>
        <div class="choice"><input type="radio" id="to-send" name="destination" value="send"
                @checked($said->destination === 'send')><label for="to-send">a message to somebody, each attached as it was</label>
            <div class="form-text">At most {{ Sending::MOST }} items and {{ Words::size(Sending::LARGEST) }}. It cannot be put back.</div>
        </div>
        <p class="schema-name"><label class="muted" for="send-to">to</label> <input
                class="form-control mono w-auto d-inline-block" id="send-to" name="send_to" type="email" size="36" maxlength="254"
                value="{{ old('send_to', $said->sendTo === '' ? $request->requester->email : $said->sendTo) }}" autocomplete="off"></p>
    </fieldset>
    <p><label for="to-folder">Folder of the mailbox</label> <input class="form-control mono" id="to-folder" name="to_folder"
            maxlength="600" placeholder="the one that each lay in" value="{{ old('to_folder', $said->folder) }}"
            autocomplete="off"><span class="form-text">Or a calendar or book of contacts. With / between a folder and one below it; what is
            missing is made.</span></p>
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
    <button class="btn btn-primary">Settle it</button>
</form>
