<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail\Calendar;

/** The name by which an appointment or a contact is known everywhere (RFC 5545, section 3.8.4.7; RFC 6350, section 6.7.6). */
final class ObjectUid
{
    /** The same under another name; nothing else of its bytes is changed. */
    public static function renamed(string $bytes, string $uid): string
    {
        $renamed = '';
        foreach (ComponentReader::lines($bytes) as [$start, $end, $line]) {
            $isName = ContentLine::parse($line)?->name === 'UID';
            $renamed .= $isName ? 'UID:'.str_replace(["\r", "\n"], '', $uid)."\r\n" : substr($bytes, $start, $end - $start);
        }

        return $renamed;
    }
}
