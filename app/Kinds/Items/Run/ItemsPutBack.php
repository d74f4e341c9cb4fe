<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Order\CannotBringItems;
use App\Kinds\Items\Order\ItemsOrder;
use App\Kinds\Items\Server\NewMailbox;
use App\Kinds\PutBackTold;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Runs\RunLedger;
use Kaiseki\Core\Mail\Dav\DavFailure;
use Kaiseki\Core\Mail\Imap\ImapFailure;

/** Takes away what a run laid on a server, brings again what it replaced, and leaves what somebody has changed since. */
final class ItemsPutBack
{
    /** @throws CannotBringItems|\Kaiseki\Core\Files\UnableToRestore */
    public static function of(Run $run, bool $alsoChanged): PutBackTold
    {
        if (! (new RunLedger($run))->giveUp()) {
            throw CannotBringItems::because("Run {$run->id} is still at work there.");
        }
        $server = ItemsOrder::fromArray($run->plan)->mailServer();
        $account = new PutBackAccount;
        try {
            (new MailPutBack($server, $account, $alsoChanged))->undo(new MailJournal($run));
            (new CollectionPutBack($server, $account, $alsoChanged))->undo(new CollectionJournal($run));
            foreach (array_unique((new MailJournal($run))->mailboxes) as $mailbox) {
                $why = (new NewMailbox($server, $mailbox))->remove();
                $why === null || $account->leave("the mailbox {$server->accountOf($mailbox)}", 1, $why);
            }
        } catch (DavFailure|ImapFailure $failure) {
            throw CannotBringItems::because($failure->getMessage());
        }
        $run->update(['put_back_at' => now(), 'set_aside_until' => null]);
        $what = "{$account->removed} items removed, {$account->returned} brought again";
        TrailEntry::add("Run {$run->id} was put back: $what.", $run->request, null, $run);

        return $account->told($run);
    }
}
