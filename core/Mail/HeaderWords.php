<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/** The text of a header's value: encoded words (RFC 2047) decoded, without control characters. */
final class HeaderWords
{
    private const WORD = '/(=\?[^?\s]{1,80}\?[bBqQ]\?[^?]*\?=)/';

    public static function text(string $value): string
    {
        if (! str_contains($value, '=?')) {
            return self::clean(Charset::toUtf8($value, ''));
        }
        $value = (string) preg_replace('/\?=\s+=\?/', '?==?', $value); // space between two words is none (section 6.2)
        $text = $pending = '';
        $charset = null;
        foreach (preg_split(self::WORD, $value, -1, PREG_SPLIT_DELIM_CAPTURE) ?: [] as $piece) {
            $isWord = preg_match('/^=\?([^?*\s]+)(?:\*[^?]*)?\?([bBqQ])\?([^?]*)\?=$/', $piece, $m) === 1;
            if ($charset !== null && (! $isWord && $piece !== '' || $isWord && strcasecmp($charset, $m[1]) !== 0)) {
                $text .= Charset::toUtf8($pending, $charset);
                [$pending, $charset] = ['', null];
            }
            if ($isWord) {
                // Words of one charset are joined before they are converted: a character may be cut between two of them.
                $charset = $m[1];
                $pending .= strtolower($m[2]) === 'b'
                    ? (string) base64_decode($m[3])
                    : quoted_printable_decode(str_replace('_', ' ', $m[3]));
            } else {
                $text .= Charset::toUtf8($piece, '');
            }
        }

        return self::clean($text.($charset === null ? '' : Charset::toUtf8($pending, $charset)));
    }

    /** Without control characters and marks that turn the writing direction or part lines: what is shown is what is there. */
    public static function clean(string $text): string
    {
        $text = mb_scrub($text, 'UTF-8');

        return trim((string) preg_replace('/[\x00-\x1f\x7f\x{80}-\x{9f}\x{202a}-\x{202e}\x{2066}-\x{2069}\x{2028}\x{2029}]+/u', '', $text));
    }
}
