<?php

declare(strict_types=1);

namespace Kaiseki\Core\Content;

/** Bytes as text: UTF-8, UTF-16 with its mark, or else Latin-1, which takes every byte. */
final class PlainText
{
    /** Whether it looks like text and not like anything else: no NUL, hardly any control characters. */
    public static function isText(string $bytes): bool
    {
        if (str_starts_with($bytes, "\xff\xfe") || str_starts_with($bytes, "\xfe\xff")) {
            return strlen($bytes) > 2;
        }

        return ! str_contains($bytes, "\0")
            && preg_match_all('/[\x01-\x08\x0b\x0c\x0e-\x1a\x1c-\x1f\x7f]/', $bytes) <= strlen($bytes) / 200;
    }

    /** As UTF-8, with lines ended by a newline; a character that was cut at the end is dropped. */
    public static function of(string $bytes): string
    {
        $text = match (true) {
            str_starts_with($bytes, "\xff\xfe") => mb_convert_encoding(substr($bytes, 2), 'UTF-8', 'UTF-16LE'),
            str_starts_with($bytes, "\xfe\xff") => mb_convert_encoding(substr($bytes, 2), 'UTF-8', 'UTF-16BE'),
            default => self::fromEight(str_starts_with($bytes, "\xef\xbb\xbf") ? substr($bytes, 3) : $bytes),
        };

        return str_replace(["\r\n", "\r"], "\n", mb_scrub((string) $text, 'UTF-8'));
    }

    private static function fromEight(string $bytes): string
    {
        for ($cut = 0; $cut < 4; $cut++) {
            $part = $cut === 0 ? $bytes : substr($bytes, 0, -$cut);
            if (mb_check_encoding($part, 'UTF-8')) {
                return $part;
            }
        }

        return (string) mb_convert_encoding($bytes, 'UTF-8', 'Windows-1252');
    }
}
