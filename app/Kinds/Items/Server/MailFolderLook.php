<?php

declare(strict_types=1);

namespace App\Kinds\Items\Server;

use Kaiseki\Core\Mail\Imap\ImapMailbox;
use Kaiseki\Core\Mail\Imap\ImapMessage;
use Kaiseki\Core\Mail\Message;

/** Which messages lie in a folder of a mail server already: told by their bytes, of which only those are read that may be the same. */
final class MailFolderLook
{
    /** @var array<string, list<ImapMessage>> Message-ID => messages */
    private array $byId = [];

    /** @var array<string, list<int>> identity => UIDs that nobody took yet */
    private array $known = [];

    /** @var array<int, true> UIDs that were read */
    private array $read = [];

    /** @param  list<ImapMessage>  $messages  of the folder that is selected */
    public function __construct(private readonly ImapMailbox $mailbox, array $messages)
    {
        foreach ($messages as $message) {
            $this->byId[$message->messageId][] = $message;
        }
    }

    /**
     * @param  array<string, array{string, int}>  $wanted  identity => Message-ID, bytes as they stand in a set
     * @return array<string, int> identity => UID of one that is the same
     */
    public function same(array $wanted): array
    {
        $read = [];
        foreach ($wanted as [$id, $size]) {
            foreach ($this->byId[$id] ?? [] as $message) {
                // One without a name may be any: then its size decides, which a server counts with either ending of lines.
                if (! isset($this->read[$message->uid]) && ($id !== '' || ($message->size >= $size && $message->size <= 2 * $size + 2))) {
                    $read[$message->uid] = true;
                }
            }
        }
        $this->read += $read;
        $this->mailbox->read(array_keys($read), function (int $uid, string $bytes): void {
            $this->known[Message::identityOf($bytes)][] = $uid;
        });

        return array_map(fn (array $uids): int => $uids[0], array_intersect_key($this->known, $wanted));
    }

    /** @return list<int> all of an identity that were found so far */
    public function uids(string $identity): array
    {
        return $this->known[$identity] ?? [];
    }
}
