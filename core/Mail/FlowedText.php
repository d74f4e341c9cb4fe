<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/** Text in the form "flowed" (RFC 3676): lines that end with a space go on in the next. */
final class FlowedText
{
    private const SIGNATURE = '-- ';

    /** @param  bool  $withoutSpace  whether the space is taken away with the end of the line (DelSp=yes) */
    public static function of(string $text, bool $withoutSpace): string
    {
        $flowed = '';
        $isOpen = false;
        foreach (preg_split('/\r?\n/', $text) ?: [] as $line) {
            if ($line === self::SIGNATURE) {
                $flowed .= ($isOpen ? "\n" : '').self::SIGNATURE."\n";
                $isOpen = false;

                continue;
            }
            $line = str_starts_with($line, ' ') ? substr($line, 1) : $line; // stuffed, section 4.4
            $isOpen = str_ends_with($line, ' ');
            $flowed .= $isOpen ? ($withoutSpace ? substr($line, 0, -1) : $line) : "$line\n";
        }

        return $flowed;
    }
}
