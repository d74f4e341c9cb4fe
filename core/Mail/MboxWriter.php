<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/** One message as it stands in an mbox of the form mboxrd, which gives every message back as it was but for its line endings. */
final class MboxWriter
{
    /** @param  int  $receivedAt  seconds since 1970; in UTC, as RFC 4155 has it */
    public static function entry(string $message, int $receivedAt): string
    {
        $lines = str_replace("\r\n", "\n", $message);
        if (! str_ends_with($lines, "\n")) {
            $lines .= "\n";
        }
        $from = Message::of(substr($message, 0, 1 << 16))->from()[0]->address ?? '';
        $sender = preg_match('/^[!-~]{1,200}$/D', $from) === 1 ? $from : 'MAILER-DAEMON';

        return "From $sender ".gmdate('D M d H:i:s Y', $receivedAt)."\n".preg_replace('/^(>*From )/m', '>$1', $lines)."\n";
    }
}
