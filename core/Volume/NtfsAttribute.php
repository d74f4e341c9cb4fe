<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** An attribute of a file of NTFS, or a piece of one: its value, or where that lies. */
final readonly class NtfsAttribute
{
    public const STANDARD_INFORMATION = 0x10;

    public const LIST = 0x20;

    public const FILE_NAME = 0x30;

    public const SECURITY_DESCRIPTOR = 0x50;

    public const VOLUME_NAME = 0x60;

    public const VOLUME_INFORMATION = 0x70;

    public const DATA = 0x80;

    public const INDEX_ROOT = 0x90;

    public const INDEX_ALLOCATION = 0xA0;

    public const BITMAP = 0xB0;

    public const REPARSE_POINT = 0xC0;

    private const COMPRESSED = 0x00FF;

    private const ENCRYPTED = 0x4000;

    /**
     * @param  string  $name  UTF-16
     * @param  string|null  $value  null where it lies elsewhere
     * @param  int  $first  the first of its clusters that this piece has, counted within it
     * @param  string  $runs  where they lie, as it is stored
     * @param  int  $size  bytes of all of it, as its first piece says
     * @param  int  $written  so many of them were ever written; behind are zeros
     * @param  int  $unit  clusters that are compressed together; 0 for none
     */
    private function __construct(
        public int $type,
        public string $name,
        private int $flags,
        public ?string $value,
        public int $first = 0,
        public string $runs = '',
        public int $size = 0,
        public int $written = 0,
        public int $unit = 0,
    ) {
    }

    /** @throws UnreadableVolume if it is none */
    public static function of(string $bytes): self
    {
        $head = unpack('Vtype/Vlength/CisElsewhere/CnameLength/vname/vflags', $bytes);
        assert($head !== false);
        $name = substr($bytes, $head['name'], 2 * $head['nameLength']);
        if ($head['isElsewhere'] === 0) {
            $at = strlen($bytes) >= 24 ? unpack('Vlength/vvalue', $bytes, 16) : false;
            if ($at === false || strlen($bytes) < $at['value'] + $at['length']) {
                throw UnreadableVolume::damaged('an attribute is longer than its record');
            }

            return new self($head['type'], $name, $head['flags'], substr($bytes, $at['value'], $at['length']));
        }
        $far = strlen($bytes) >= 64 ? unpack('Pfirst/Plast/vruns/vunit/x4/Pheld/Psize/Pwritten', $bytes, 16) : false;
        if ($far === false || $far['runs'] > strlen($bytes) || $far['unit'] > 16 || min($far['first'], $far['size'], $far['written']) < 0) {
            throw UnreadableVolume::damaged('an attribute says what cannot be');
        }
        $unit = $far['unit'] === 0 || ($head['flags'] & self::COMPRESSED) === 0 ? 0 : 1 << $far['unit'];

        $runs = substr($bytes, $far['runs']);

        return new self($head['type'], $name, $head['flags'], null, $far['first'], $runs, $far['size'], $far['written'], $unit);
    }

    public function isEncrypted(): bool
    {
        return ($this->flags & self::ENCRYPTED) !== 0;
    }
}
