<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Order\CannotBringItems;
use App\Kinds\Items\Order\ItemsOrder;
use App\Kinds\Items\Server\NewMailbox;
use Kaiseki\Core\Proof\CheckLine;

/** Has mailboxes made that a run goes into, and tells of it. */
final readonly class MailboxMaker
{
    public function __construct(private ItemsOrder $order, private ItemsAccount $account)
    {
    }

    /**
     * It is written down before: it may be there when the run is killed.
     *
     * @throws CannotBringItems if it could not be made
     */
    public function make(string $mailbox): void
    {
        $server = $this->order->mailServer();
        (new MailJournal($this->account->run))->makingMailbox($mailbox);
        (new NewMailbox($server, $mailbox))->make();
        $this->account->checks[] = new CheckLine(
            'the mailbox',
            'note',
            "{$server->accountOf($mailbox)} was made anew on {$server->name}: ".NewMailbox::LOST,
        );
    }
}
