<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Models\Run;
use App\Runs\RunFiles;
use Kaiseki\Core\Files\Journal;

/**
 * What a run did to mailboxes, written before and after each deed: a message that was being laid when the run was killed is looked for
 * before it is laid again, so that none is there twice.
 */
final class MailJournal
{
    private const LAYING = 'laying';

    private const LAID = 'laid';

    private const MADE = 'made-folder';

    private const MADE_MAILBOX = 'made-mailbox';

    /** @var array<string, LaidItem> key => message */
    public array $laid = [];

    /** @var array<string, int> key of a message of which it is not known whether it is there => least UID that it has then */
    public array $unsure = [];

    /** @var list<array{string, string}> mailbox and folder, in the order in which they were made */
    public array $made = [];

    /** @var list<string> mailboxes that were made, or were being made when the run was killed */
    public array $mailboxes = [];

    private readonly Journal $journal;

    public function __construct(Run $run)
    {
        $path = RunFiles::journal($run);
        foreach (Journal::read($path) as $line) {
            $this->take($line);
        }
        $this->journal = Journal::open($path);
    }

    public function making(string $mailbox, string $folder): void
    {
        $this->journal->add(self::MADE, $mailbox, $folder);
        $this->made[] = [$mailbox, $folder];
    }

    public function makingMailbox(string $mailbox): void
    {
        $this->journal->add(self::MADE_MAILBOX, $mailbox);
        $this->mailboxes[] = $mailbox;
    }

    public function laying(string $key, int $next): void
    {
        $this->journal->add(self::LAYING, $key, (string) $next);
        $this->unsure[$key] = $next;
    }

    public function laid(LaidItem $item): void
    {
        $this->journal->add(
            self::LAID,
            $item->key,
            $item->mailbox,
            $item->folder,
            (string) $item->validity,
            (string) $item->uid,
            implode(' ', $item->flags),
        );
        $this->laid[$item->key] = $item;
        unset($this->unsure[$item->key]);
    }

    /** It turned out not to be there. */
    public function isNotThere(string $key): void
    {
        unset($this->unsure[$key]);
    }

    /** @param  list<string>  $line */
    private function take(array $line): void
    {
        if ($line[0] === self::MADE) {
            $this->made[] = [$line[1], $line[2]];
        } elseif ($line[0] === self::MADE_MAILBOX) {
            $this->mailboxes[] = $line[1];
        } elseif ($line[0] === self::LAYING) {
            $this->unsure[$line[1]] = (int) $line[2];
        } elseif ($line[0] === self::LAID) {
            [, $key, $mailbox, $folder, $validity, $uid, $flags] = $line;
            $flags = $flags === '' ? [] : explode(' ', $flags);
            $this->laid[$key] = new LaidItem($key, $mailbox, $folder, (int) $validity, (int) $uid, $flags);
            unset($this->unsure[$key]);
        }
    }
}
