<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** What NTFS compresses with: LZNT1 ([MS-XCA] 2.5), in chunks of 4,096 bytes. */
final class Lznt1
{
    private const CHUNK = 4096;

    /**
     * @param  int  $most  bytes that are wanted
     *
     * @throws UnreadableVolume if it is none
     */
    public static function unpack(string $bytes, int $most): string
    {
        $all = '';
        for ($at = 0; $at + 2 <= strlen($bytes) && strlen($all) < $most; $at += 2 + $length) {
            $head = unpack('v', $bytes, $at)[1] ?? 0;
            if ($head === 0) {
                break;
            }
            $length = ($head & 0xFFF) + 1;
            $chunk = substr($bytes, $at + 2, $length);
            strlen($chunk) === $length || throw self::damaged();
            $all .= ($head & 0x8000) !== 0 ? str_pad(self::chunk($chunk), self::CHUNK, "\0") : $chunk;
        }

        return substr($all, 0, $most);
    }

    /** Eight things at a time, each a byte, or a number that says how far back how much of it stands already. */
    private static function chunk(string $bytes): string
    {
        $out = '';
        for ($at = 0, $end = strlen($bytes); $at < $end;) {
            $flags = ord($bytes[$at++]);
            for ($bit = 0; $bit < 8 && $at < $end; $bit++, $flags >>= 1) {
                if (($flags & 1) === 0) {
                    $out .= $bytes[$at++];

                    continue;
                }
                $at + 2 <= $end || throw self::damaged();
                $out .= self::again($out, ord($bytes[$at]) | ord($bytes[$at + 1]) << 8);
                $at += 2;
                strlen($out) <= self::CHUNK || throw self::damaged();
            }
        }

        return $out;
    }

    private static function again(string $out, int $token): string
    {
        $lengthBits = 12;
        for ($place = strlen($out) - 1; $place >= 0x10; $place >>= 1) {
            $lengthBits--;
        }
        $length = ($token & ((1 << $lengthBits) - 1)) + 3;
        $back = ($token >> $lengthBits) + 1;
        $back <= strlen($out) || throw self::damaged();
        $from = substr($out, -$back, $length);

        return strlen($from) === $length ? $from : substr(str_repeat($from, intdiv($length, strlen($from)) + 1), 0, $length);
    }

    private static function damaged(): UnreadableVolume
    {
        return UnreadableVolume::damaged('what is compressed cannot be unpacked');
    }
}
