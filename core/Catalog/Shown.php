<?php

declare(strict_types=1);

namespace Kaiseki\Core\Catalog;

/** Names are bytes from outside: how they are shown to people, and how they are written where only UTF-8 may stand. */
final class Shown
{
    /**
     * Control characters, bytes that are not UTF-8, and marks that turn the writing direction, as escapes: harmless in a terminal or a
     * page.
     */
    public static function name(string $bytes): string
    {
        if (preg_match('/^[\x20-\x7e]*$/D', $bytes) === 1) {
            return $bytes;
        }
        $shown =
            preg_replace_callback(
                '/[\x00-\x1f\x7f]|\xc2[\x80-\x9f]|\xe2\x80[\x8b-\x8f\xa8-\xae]|\xe2\x81[\xa0-\xaf]|\xef\xbb\xbf/',
                fn (array $m): string => match ($m[0]) {
                    "\n" => '\n',
                    "\t" => '\t',
                    "\r" => '\r',
                    default => self::hex($m[0]),
                },
                $bytes,
            ) ?? '';
        if (mb_check_encoding($shown, 'UTF-8')) {
            return $shown;
        }

        // What is UTF-8 stays, each other byte becomes an escape.
        return preg_replace_callback(
            '/((?:[\x00-\x7f]|[\xc2-\xdf][\x80-\xbf]|\xe0[\xa0-\xbf][\x80-\xbf]|[\xe1-\xec\xee\xef][\x80-\xbf]{2}|'.
                '\xed[\x80-\x9f][\x80-\xbf]|'.
                '\xf0[\x90-\xbf][\x80-\xbf]{2}|[\xf1-\xf3][\x80-\xbf]{3}|\xf4[\x80-\x8f][\x80-\xbf]{2})+)|([\x80-\xff])/',
            fn (array $m): string => isset($m[2]) ? self::hex($m[2]) : $m[1],
            $shown,
        ) ?? '';
    }

    public static function isUtf8(string $bytes): bool
    {
        return mb_check_encoding($bytes, 'UTF-8');
    }

    /** Percent-encoded (RFC 3986, section 2.1) but for the slashes. */
    public static function percentEncoded(string $path): string
    {
        return str_replace('%2F', '/', rawurlencode($path));
    }

    private static function hex(string $bytes): string
    {
        return '\x'.implode('\x', str_split(bin2hex($bytes), 2));
    }
}
