<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Order\CannotBringItems;
use App\Kinds\Items\Order\ItemsOrder;
use App\Kinds\Items\Server\MailServer;
use App\Kinds\PutBackTold;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Runs\RunLedger;
use App\Runs\TargetLock;
use Kaiseki\Core\Mail\Imap\ImapFailure;
use Kaiseki\Core\Mail\Imap\ImapMailbox;
use Kaiseki\Core\Mail\Imap\ImapMessage;

/** Takes away what a run laid into mailboxes, and leaves what somebody has changed since. */
final class MailPutBack
{
    private int $removed = 0;

    /** @var list<array{path: string, because: string}> */
    private array $left = [];

    private function __construct(private readonly Run $run, private readonly MailServer $server, private readonly bool $alsoChanged)
    {
    }

    /** @throws CannotBringItems|\Kaiseki\Core\Files\UnableToRestore */
    public static function of(Run $run, bool $alsoChanged): PutBackTold
    {
        if (! (new RunLedger($run))->giveUp()) {
            throw CannotBringItems::because("Run {$run->id} is still at work there.");
        }
        $self = new self($run, ItemsOrder::fromArray($run->plan)->mailServer(), $alsoChanged);
        try {
            $self->undo(new MailJournal($run));
        } catch (ImapFailure $failure) {
            throw CannotBringItems::because($failure->getMessage());
        }
        $run->update(['put_back_at' => now()]);
        TrailEntry::add("Run {$run->id} was put back: {$self->removed} messages removed.", $run->request, null, $run);

        return $self->told();
    }

    private function undo(MailJournal $journal): void
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
            $this->leave($folder, count($laid), 'the folder is gone');

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
                $this->leave("$folder, number {$one->uid}", 1, $because);
            }
        }
        $line->remove($remove);
        $this->removed += count($remove);
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

    private function leave(string $path, int $count, string $because): void
    {
        $this->left[] = ['path' => mb_scrub($path).($count > 1 ? " ($count messages)" : ''), 'because' => $because];
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

    private function told(): PutBackTold
    {
        $lines = ["{$this->removed} messages that the run had laid were removed."];
        foreach (array_slice($this->left, 0, 100) as $left) {
            $lines[] = "  left as it is: {$left['path']}: {$left['because']}";
        }
        $document = ['removed' => $this->removed, 'returned' => 0, 'left' => array_slice($this->left, 0, 1_000), 'kept' => []];

        return new PutBackTold($document, ['run' => $this->run->id] + $document, $lines, $this->left === []);
    }
}
