<?php

declare(strict_types=1);

namespace Kaiseki\Core\Mail;

/** Bytes in whatever charset a message names, as UTF-8. */
final class Charset
{
    /** Names that are written in messages => what is meant by them (common practice). */
    private const MEANT = [
        '' => 'UTF-8',
        'utf8' => 'UTF-8',
        'us-ascii' => 'UTF-8',
        'ascii' => 'UTF-8',
        'ks_c_5601-1987' => 'CP949',
        'gb2312' => 'GB18030',
        'gbk' => 'GB18030',
        'iso-8859-1' => 'Windows-1252',
        'latin1' => 'Windows-1252',
        'x-sjis' => 'SJIS',
        'unicode-1-1-utf-7' => 'UTF-7',
    ];

    /** What mbstring calls encodings though they are none of characters. */
    private const TRANSFERS = ['BASE64', 'UUENCODE', 'HTML-ENTITIES', 'Quoted-Printable', '7bit', '8bit'];

    private const LONGEST = 40;

    /** @var array<string, string> name as written => as mbstring knows it */
    private static array $known = [];

    /** What is not in the charset that it claims is taken for Windows-1252, as is one that nobody knows. */
    public static function toUtf8(string $bytes, string $charset): string
    {
        $name = strtolower(trim($charset, "\"' \t"));
        $meant = strlen($name) > self::LONGEST ? 'Windows-1252' : (self::$known[$name] ??= self::meant($name));
        if ($meant === 'UTF-8') {
            return mb_check_encoding($bytes, 'UTF-8') ? $bytes : (string) mb_convert_encoding($bytes, 'UTF-8', 'Windows-1252');
        }

        return (string) mb_convert_encoding($bytes, 'UTF-8', $meant);
    }

    private static function meant(string $name): string
    {
        $meant = self::MEANT[$name] ?? $name;
        foreach (mb_list_encodings() as $known) {
            $names = in_array($known, self::TRANSFERS, true) ? [] : [$known, ...mb_encoding_aliases($known)];
            if (in_array(strtolower($meant), array_map(strtolower(...), $names), true)) {
                return $known;
            }
        }

        return 'Windows-1252';
    }
}
