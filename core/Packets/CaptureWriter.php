<?php

declare(strict_types=1);

namespace Kaiseki\Core\Packets;

/**
 * Writes packets as pcapng (draft-ietf-opsawg-pcapng), which the ordinary tools read: each sender is an interface of its own, with its
 * name.
 */
final class CaptureWriter
{
    public const SECTION = 0x0A0D0D0A;

    public const INTERFACE = 1;

    public const PACKET = 6;

    public const ORDER = 0x1A2B3C4D;

    /** Bytes of each packet that are kept. */
    public const SNAP = 2048;

    /** The number of Ethernet among what a link may be. */
    public const ETHERNET = 1;

    /** Of an option: the name of an interface. */
    public const NAME = 2;

    /** @var array<string, int> sender => number of its interface */
    private array $interfaces = [];

    private int $written;

    /**
     * @param  resource  $to  new, or one that another of these wrote
     * @param  int  $most  bytes that it may have
     */
    public function __construct(private $to, private readonly int $most)
    {
        $this->written = (int) (fstat($to)['size'] ?? 0);
        fseek($to, 0, SEEK_END);
        $this->block(self::SECTION, pack('VvvP', self::ORDER, 1, 0, -1)); // interfaces are counted anew in each section
    }

    /** @return bool whether there was room for it */
    public function add(string $sender, string $bytes, float $at): bool
    {
        if (! isset($this->interfaces[$sender])) {
            $name = substr($sender, 0, 200);
            $option = pack('vv', self::NAME, strlen($name)).self::padded($name).pack('vv', 0, 0);
            if (! $this->block(self::INTERFACE, pack('vvV', self::ETHERNET, 0, self::SNAP).$option)) {
                return false;
            }
            $this->interfaces[$sender] = count($this->interfaces);
        }
        $micro = (int) round($at * 1e6);
        $kept = substr($bytes, 0, self::SNAP);

        return $this->block(
            self::PACKET,
            pack('V5', $this->interfaces[$sender], $micro >> 32, $micro & 0xFFFFFFFF, strlen($kept), strlen($bytes)).self::padded($kept),
        );
    }

    private static function padded(string $bytes): string
    {
        return $bytes.str_repeat("\0", -strlen($bytes) & 3);
    }

    private function block(int $type, string $body): bool
    {
        $length = strlen($body) + 12;
        if ($this->written + $length > $this->most) {
            return false;
        }
        $bytes = pack('VV', $type, $length).$body.pack('V', $length);
        if (fwrite($this->to, $bytes) !== $length || ! fflush($this->to)) {
            return false;
        }
        $this->written += $length;

        return true;
    }
}
