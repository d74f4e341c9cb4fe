<?php

declare(strict_types=1);

namespace Tests\Support;

/** Frames of Ethernet as a machine would send them, made by hand from the standards: checksums are zeros, which nobody here looks at. */
final class Frames
{
    public const ALL = 'ff:ff:ff:ff:ff:ff';

    public static function mac(string $text): string
    {
        return (string) hex2bin(str_replace(':', '', $text));
    }

    public static function ethernet(string $to, string $from, int $type, string $body): string
    {
        return self::mac($to).self::mac($from).pack('n', $type).$body;
    }

    public static function arp(string $from, string $address, string $asks, bool $isAnswer = false, string $to = self::ALL): string
    {
        $body = "\0\1\x08\0\6\4".pack('n', $isAnswer ? 2 : 1).self::mac($from).inet_pton($address).
            ($isAnswer ? self::mac($to) : "\0\0\0\0\0\0").inet_pton($asks);

        return self::ethernet($to, $from, 0x0806, $body);
    }

    public static function ipv4(string $to, string $from, int $protocol, string $address, string $toAddress, string $carried): string
    {
        $header = pack('CCnnnCCn', 0x45, 0, 20 + strlen($carried), 0, 0, 64, $protocol, 0).inet_pton($address).inet_pton($toAddress);

        return self::ethernet($to, $from, 0x0800, $header.$carried);
    }

    /** @param  int  $flags  2 for one that begins a connection, 18 for the answer to that */
    public static function tcp(int $fromPort, int $port, int $flags): string
    {
        return pack('nnNNCCnnn', $fromPort, $port, 1, 0, 0x50, $flags, 1024, 0, 0);
    }

    public static function udp(int $fromPort, int $port, string $carried): string
    {
        return pack('nnnn', $fromPort, $port, 8 + strlen($carried), 0).$carried;
    }

    /** A question for the address of a name (RFC 1035, 4.1). */
    public static function question(string $name): string
    {
        $labels = array_map(fn (string $label): string => chr(strlen($label)).$label, explode('.', $name));

        return pack('n6', 0x1234, 0x0100, 1, 0, 0, 0).implode('', $labels)."\0".pack('nn', 1, 1);
    }
}
