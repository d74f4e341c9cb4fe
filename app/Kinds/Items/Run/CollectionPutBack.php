<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Server\MailServer;
use App\Runs\TargetLock;
use Kaiseki\Core\Mail\Dav\DavFailure;
use Kaiseki\Core\Mail\Dav\DavHome;

/** Takes away what a run laid into calendars and contacts, and lays again what stood there. */
final readonly class CollectionPutBack
{
    public function __construct(private MailServer $server, private PutBackAccount $account, private bool $alsoChanged)
    {
    }

    /** @throws DavFailure */
    public function undo(CollectionJournal $journal): void
    {
        $byMailbox = [];
        foreach (array_reverse($journal->laid) as $laid) { // a day of a series after the one that was laid after it
            $byMailbox[$laid->mailbox][] = $laid;
        }
        foreach ($byMailbox as $mailbox => $objects) {
            $mailbox = (string) $mailbox;
            $lock = "collections {$this->server->name} $mailbox";
            TargetLock::take($lock, 'items', "calendars and contacts of $mailbox on {$this->server->name}");
            try {
                $home = $this->server->openDav($mailbox);
                foreach ($objects as $laid) {
                    $this->object($home, $journal, $laid);
                }
                $this->removeMade($home, $mailbox, $journal);
            } finally {
                TargetLock::free($lock, 'items');
            }
        }
    }

    private function object(DavHome $home, CollectionJournal $journal, LaidObject $laid): void
    {
        $is = $home->entry($laid->href);
        $before = $laid->aside === '' ? '' : $journal->kept($laid);
        $because = match (true) {
            $is === null => 'it was deleted since',
            ! $this->alsoChanged && $laid->sort->identityOf($is->bytes) !== $laid->identity => 'it was changed since',
            $before === null => 'what stood there before was cleared away',
            default => null,
        };
        if ($because !== null || $is === null) {
            $this->account->leave(rawurldecode($laid->href), 1, (string) $because);
        } elseif ($before === '' || $before === null) {
            $home->remove($laid->href, $is->etag);
            $this->account->removed++;
        } else {
            $home->put($laid->href, $before, $laid->sort, $is->etag);
            $this->account->returned++;
        }
    }

    /** Collections that the run made, if nothing lies in them. */
    private function removeMade(DavHome $home, string $mailbox, CollectionJournal $journal): void
    {
        foreach (array_keys($journal->made, $mailbox, true) as $href) {
            foreach ($home->collections() as $collection) {
                if ($collection->href === $href && $home->entries($collection) === []) {
                    $home->remove($href, '');
                }
            }
        }
    }
}
