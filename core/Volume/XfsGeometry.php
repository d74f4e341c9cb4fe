<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Machine\Disk;

/** What the first sector of XFS says of its sizes, and the disk that it is on; numbers of blocks and inodes as they are counted there. */
final readonly class XfsGeometry
{
    private const MOREBITS = 0x2000;

    private const FTYPE_OF_4 = 0x200;

    private const FTYPE_OF_5 = 0x1;

    /** Incompatible features that change nothing of what is read here, or are read. */
    private const KNOWN = self::FTYPE_OF_5 | 0x2 | 0x4 | 0x8 | 0x20;

    private function __construct(
        public Disk $disk,
        public int $version,
        public int $blockSize,
        private int $blocks,
        private int $groupBlocks,
        private int $groups,
        private int $groupBits,
        public int $inodeSize,
        private int $inodeBits,
        public int $folderBlock,
        public int $root,
        public bool $hasTypes,
        public string $label,
        private int $logStart,
        private int $logBlocks,
    ) {
    }

    /** @throws UnreadableVolume if that cannot be, or it has what is not read */
    public static function of(Disk $disk, string $bytes): self
    {
        $fields = unpack('x4/NblockSize/Jblocks/x40/Jroot/x20/NgroupBlocks/Ngroups/x8/nversion/nsector/ninode/nperBlock/'.
            'a12label/CblockLog/CsectorLog/CinodeLog/CperBlockLog/CgroupLog', $bytes);
        assert($fields !== false);
        $version = $fields['version'] & 0xF;
        $more = unpack('Nfeatures', $bytes, 200) + unpack('Nincompatible', $bytes, 216);
        $unknown = $version === 5 ? $more['incompatible'] & ~self::KNOWN : 0;
        $unknown === 0 || throw UnreadableVolume::because(sprintf('has features that are not read (0x%x)', $unknown));
        $folderLog = ord($bytes[192]);
        $isPlausible = in_array($version, [4, 5], true) && $fields['blockLog'] >= 9 && $fields['blockLog'] <= 16
            && 1 << $fields['blockLog'] === $fields['blockSize'] && $fields['inodeLog'] >= 8 && $fields['inodeLog'] <= 11
            && 1 << $fields['inodeLog'] === $fields['inode'] && $fields['blockLog'] >= $fields['inodeLog']
            && $fields['perBlockLog'] === $fields['blockLog'] - $fields['inodeLog'] && $fields['blockLog'] + $folderLog <= 16
            && $fields['groupLog'] <= 31 && $fields['groupBlocks'] > 0 && $fields['groupBlocks'] <= 1 << $fields['groupLog']
            && $fields['groups'] > 0 && $fields['blocks'] > 0 && $fields['blocks'] <= intdiv($disk->size(), $fields['blockSize']);
        $isPlausible || throw UnreadableVolume::damaged('its first sector says what cannot be');
        $hasTypes = $version === 5
            ? ($more['incompatible'] & self::FTYPE_OF_5) !== 0
            : ($fields['version'] & self::MOREBITS) !== 0 && ($more['features'] & self::FTYPE_OF_4) !== 0;

        return new self(
            $disk, $version, $fields['blockSize'], $fields['blocks'], $fields['groupBlocks'], $fields['groups'], $fields['groupLog'],
            $fields['inode'], $fields['perBlockLog'], $fields['blockSize'] << $folderLog, $fields['root'], $hasTypes,
            rtrim($fields['label'], "\0"), unpack('J', $bytes, 48)[1] ?? 0, unpack('N', $bytes, 96)[1] ?? 0,
        );
    }

    /** The number of a block from the beginning of the volume: it is counted in groups, in as many bits as one needs. */
    private function block(int $number): int
    {
        [$group, $within] = [$number >> $this->groupBits, $number & ((1 << $this->groupBits) - 1)];
        $block = $group * $this->groupBlocks + $within;

        return $number >= 0 && $group < $this->groups && $within < $this->groupBlocks && $block < $this->blocks
            ? $block
            : throw UnreadableVolume::damaged("the block $number does not lie within it");
    }

    /** Bytes from the beginning of a block that is counted so. */
    public function read(int $number, int $from, int $length): string
    {
        $bytes = $this->disk->read($this->block($number) * $this->blockSize + $from, $length);

        return strlen($bytes) === $length ? $bytes : throw UnreadableVolume::damaged("the block $number does not lie within it");
    }

    /** Null if it lies elsewhere. */
    public function log(): ?XfsLog
    {
        return $this->logStart === 0
            ? null
            : new XfsLog($this->disk, $this->block($this->logStart) * $this->blockSize, intdiv($this->logBlocks * $this->blockSize, 512));
    }

    public function inode(int $number): string
    {
        $within = $number & ((1 << $this->inodeBits) - 1);

        return $this->read($number >> $this->inodeBits, $within * $this->inodeSize, $this->inodeSize);
    }
}
