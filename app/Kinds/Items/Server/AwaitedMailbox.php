<?php

declare(strict_types=1);

namespace App\Kinds\Items\Server;

use Kaiseki\Core\Mail\Dav\DavFailure;
use Kaiseki\Core\Mail\Imap\ImapFailure;

/** A mailbox that is not there, and that whoever runs its server is to make. */
final class AwaitedMailbox
{
    /** As a run has it among what it waits for. */
    public static function words(MailServer $server, string $mailbox): string
    {
        return "the mailbox $mailbox on {$server->name}";
    }

    /** Whether it is there now, and may be opened. */
    public static function hasCome(MailServer $server, string $words): bool
    {
        $around = explode("\0", self::words($server, "\0"));
        $isOurs = str_starts_with($words, $around[0]) && str_ends_with($words, $around[1]);
        $mailbox = $isOurs ? substr($words, strlen($around[0]), -strlen($around[1])) : '';
        try {
            if ($server->imap !== '') {
                $server->open($mailbox)->close();
            } else {
                $server->openDav($mailbox);
            }

            return $mailbox !== '';
        } catch (DavFailure|ImapFailure) {
            return false;
        }
    }
}
