<?php

declare(strict_types=1);

namespace Kaiseki\Core\Packets;

/**
 * One frame of Ethernet (IEEE 802.3) with what it carries, as far as it tells who wanted what from whom: ARP (RFC 826), IPv4 (RFC 791),
 * IPv6 (RFC 8200), TCP (RFC 9293), UDP (RFC 768), questions for names (RFC 1035). All of it is the word of whoever sent it.
 */
final readonly class Frame
{
    private const IPV4 = 0x0800;

    private const ARP = 0x0806;

    private const IPV6 = 0x86DD;

    private const TCP = 6;

    private const UDP = 17;

    private const PROTOCOLS = [1 => 'ICMP', 2 => 'IGMP', self::TCP => 'TCP', self::UDP => 'UDP', 58 => 'ICMPv6'];

    private const NAMES = 53;

    private const SYN = 0x02;

    private const RST = 0x04;

    private const ACK = 0x10;

    private const LONGEST_NAME = 253;

    /**
     * @param  string  $destination  6 bytes
     * @param  string  $source  6 bytes
     * @param  string  $protocol  TCP, UDP, ICMP, ARP, or a number in words
     * @param  string|null  $from  address in text
     * @param  string|null  $to  address in text; of ARP the one that is asked for
     * @param  int  $flags  of TCP
     * @param  bool  $asks  whether it is a question of ARP
     * @param  string|null  $name  that a name server is asked for
     */
    private function __construct(
        public string $destination,
        public string $source,
        public string $protocol,
        public ?string $from = null,
        public ?string $to = null,
        public ?int $fromPort = null,
        public ?int $port = null,
        private int $flags = 0,
        public bool $asks = false,
        public ?string $name = null,
    ) {
    }

    /** Null if it is too short to be one. */
    public static function of(string $bytes): ?self
    {
        if (strlen($bytes) < 14) {
            return null;
        }
        $ends = [substr($bytes, 0, 6), substr($bytes, 6, 6)];
        $type = self::number($bytes, 12, 2);
        $body = substr($bytes, 14);

        return match ($type) {
            self::ARP => self::arp($ends, $body),
            self::IPV4 => self::ipv4($ends, $body),
            self::IPV6 => self::ipv6($ends, $body),
            default => null,
        } ?? new self(...[...$ends, sprintf($type < 0x600 ? 'Ethernet, %d bytes' : 'Ethernet, type %04x', $type)]);
    }

    /** @param  array{string, string}  $ends */
    private static function arp(array $ends, string $body): ?self
    {
        return strlen($body) < 28 || substr($body, 0, 6) !== "\0\1\x08\0\6\4"
            ? null
            : new self(
                ...[...$ends, 'ARP'],
                from: (string) inet_ntop(substr($body, 14, 4)),
                to: (string) inet_ntop(substr($body, 24, 4)),
                asks: self::number($body, 6, 2) === 1,
            );
    }

    /** @param  array{string, string}  $ends */
    private static function ipv4(array $ends, string $body): ?self
    {
        $header = strlen($body) < 20 ? 0 : (ord($body[0]) & 15) * 4;
        if ($header < 20 || ord($body[0]) >> 4 !== 4) {
            return null;
        }
        $isFirst = (self::number($body, 6, 2) & 0x1FFF) === 0; // of its fragments
        $carried = $isFirst ? substr($body, $header) : '';

        return self::carrying($ends, ord($body[9]), [substr($body, 12, 4), substr($body, 16, 4)], $carried);
    }

    /** @param  array{string, string}  $ends */
    private static function ipv6(array $ends, string $body): ?self
    {
        return strlen($body) < 40 || ord($body[0]) >> 4 !== 6
            ? null
            : self::carrying($ends, ord($body[6]), [substr($body, 8, 16), substr($body, 24, 16)], substr($body, 40));
    }

    /**
     * @param  array{string, string}  $ends
     * @param  array{string, string}  $addresses
     */
    private static function carrying(array $ends, int $protocol, array $addresses, string $carried): self
    {
        $hasPorts = ($protocol === self::TCP || $protocol === self::UDP) && strlen($carried) >= 8;
        $port = $hasPorts ? self::number($carried, 2, 2) : null;

        return new self(
            ...[...$ends, self::PROTOCOLS[$protocol] ?? "IP, protocol $protocol"],
            from: (string) inet_ntop($addresses[0]),
            to: (string) inet_ntop($addresses[1]),
            fromPort: $hasPorts ? self::number($carried, 0, 2) : null,
            port: $port,
            flags: $protocol === self::TCP && strlen($carried) >= 20 ? ord($carried[13]) : 0,
            name: $protocol === self::UDP && $port === self::NAMES ? self::nameIn(substr($carried, 8)) : null,
        );
    }

    /** The name in the first question of a message to a name server; what is no letter, digit, dash or underscore of it as "?". */
    private static function nameIn(string $message): ?string
    {
        $labels = [];
        for ($at = 12; ($length = ord($message[$at] ?? "\0")) > 0 && $length < 64 && count($labels) < 128; $at += $length + 1) {
            $labels[] = (string) preg_replace('/[^A-Za-z0-9_-]/', '?', substr($message, $at + 1, $length));
        }

        return $labels === [] ? null : substr(implode('.', $labels), 0, self::LONGEST_NAME);
    }

    private static function number(string $bytes, int $at, int $length): int
    {
        return (int) hexdec(bin2hex(substr($bytes, $at, $length)));
    }

    /** Whether it goes to all, or to some group (the lowest bit of an address' first byte). */
    public function isToMany(): bool
    {
        return (ord($this->destination[0]) & 1) === 1;
    }

    /** Whether it belongs to a connection that the other side began. */
    public function isReplyOfTcp(): bool
    {
        return ($this->flags & (self::ACK | self::RST)) !== 0 && ($this->flags & (self::ACK | self::SYN)) !== self::SYN;
    }
}
