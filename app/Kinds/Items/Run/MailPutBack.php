<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Server\MailServer;
use App\Runs\TargetLock;
use Kaiseki\Core\Mail\Imap\ImapMailbox;
use Kaiseki\Core\Mail\Imap\ImapMessage;

/** Takes away what a run laid into mailboxes, and leaves what somebody has changed since. */
final readonly class MailPutBack
{
    public function __construct(private MailServer $server, private PutBackAccount $account, private bool $alsoChanged)
    {
    }

    public function undo(MailJournal $journal): void
    {
        $byFolder = [];
        foreach ($journal->laid as $laid) {
            $byFolder[$laid->mailbox][$laid->folder][] = $laid;
        }
        foreach ($byFolder as $mailbox => $folders) {
            $mailbox = (string) $mailbox;
            $lock = "mailbox {$this->server->name} $mailbox";
            TargetLock::take($lock, 'items', "the mailbox $mailbox of {$this->server->name}");
            try {
                $line = $this->server->open($mailbox);
                foreach ($folders as $folder => $laid) {
                    $this->folder($line, (string) $folder, $laid);
                }
                $this->removeMade($line, $mailbox, $journal);
                $line->close();
            } finally {
                TargetLock::free($lock, 'items');
            }
        }
    }

    /** @param  list<LaidItem>  $laid */
    private function folder(ImapMailbox $line, string $folder, array $laid): void
    {
        if (! isset($line->folders()[$folder])) {
            $this->account->leave($folder, count($laid), 'the folder is gone');

            return;
        }
        $validity = $line->select($folder);
        $there = [];
        foreach ($line->messages() as $message) {
            $there[$message->uid] = $message;
        }
        $remove = [];
        foreach ($laid as $one) {
            $because = $one->validity === $validity
                ? $this->changed($one, $there[$one->uid] ?? null)
                : 'the server has numbered the folder anew since, so it cannot be told which it is';
            if ($because === null) {
                $remove[] = $one->uid;
            } else {
                $this->account->leave("$folder, number {$one->uid}", 1, $because);
            }
        }
        $line->remove($remove);
        $this->account->removed += count($remove);
    }

    /** What somebody did with it since; null for nothing that keeps it. */
    private function changed(LaidItem $laid, ?ImapMessage $there): ?string
    {
        if ($there === null) {
            return 'it was moved or deleted since';
        }
        $flags = array_diff($there->flags, ['\Seen']); // having been looked at is no change
        $isSame = array_diff($flags, $laid->flags) === [] && array_diff($laid->flags, $there->flags) === [];

        return $isSame || $this->alsoChanged ? null : 'its flags were changed since';
    }

    /** Folders that the run made, if nothing lies in them. */
    private function removeMade(ImapMailbox $line, string $mailbox, MailJournal $journal): void
    {
        foreach (array_reverse($journal->made) as [$of, $folder]) {
            $folders = $line->folders();
            $below = array_filter(array_keys($folders), fn (string $name): bool => str_starts_with($name, "$folder/"));
            if ($of !== $mailbox || ! isset($folders[$folder]) || $below !== []) {
                continue;
            }
            $line->select($folder);
            if ($line->messages() === []) {
                $line->delete($folder);
            }
        }
    }
}
