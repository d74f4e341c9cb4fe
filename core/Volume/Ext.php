<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Machine\Disk;

/**
 * The extended file systems 2, 3 and 4, as ext4(5) and "ext4 Data Structures and Algorithms" of the Linux kernel's documentation describe
 * them. Of one that was in use the journal is played back while it is read, as a mount would have done it first.
 */
final class Ext implements FileSystem
{
    private const MAGIC = 0xEF53;

    private const ROOT = 2;

    /** Incompatible features (bits) that change nothing of what is read here, or are read. */
    private const KNOWN = 0x2 | self::RECOVER | 0x40 | self::WIDE | 0x100 | 0x200 | 0x400 | 0x2000 | 0x4000 | 0x8000 | 0x20000;

    private const RECOVER = 0x4;

    private const WIDE = 0x80;

    /** Bytes of a folder, and names in one, that are read at most. */
    private const LARGEST_FOLDER = 256 << 20;

    private const MOST_NAMES = 2_000_000;

    /** @var array<string, int|string> fields of the superblock */
    private readonly array $super;

    private readonly int $blockSize;

    private readonly int $inodeSize;

    private readonly int $descriptorSize;

    /** @var array<int, int> group => the block that its table of inodes begins at */
    private array $tables = [];

    /** With what its journal has that is newer. */
    private Disk $disk;

    /** @var list<string> */
    private array $losses = [];

    private function __construct(Disk $disk, string $super)
    {
        $this->disk = $disk;
        $fields = unpack(
            'Vinodes/Vblocks/x12skip/Vfirst/VlogSize/x4skip2/VperGroup/x4skip3/VinodesPerGroup/x12skip4/vmagic/vstate/x16skip5/'.
                'Vrevision/x8skip6/vinodeSize/x2skip7/Vcompatible/Vincompatible/VreadOnly/x16uuid/a16label',
            $super,
        );
        assert($fields !== false);
        $this->super = $fields;
        $unknown = $fields['incompatible'] & ~self::KNOWN;
        if ($unknown !== 0) {
            throw UnreadableVolume::because(sprintf('has features that are not read (0x%x)', $unknown));
        }
        if ($fields['logSize'] > 6 || $fields['inodesPerGroup'] < 1 || $fields['perGroup'] < 1) {
            throw UnreadableVolume::damaged('its superblock says what cannot be');
        }
        $this->blockSize = 1024 << $fields['logSize'];
        $this->inodeSize = $fields['revision'] === 0 ? 128 : $fields['inodeSize'];
        $wide = unpack('v', $super, 254)[1] ?? 0;
        $this->descriptorSize = ($fields['incompatible'] & self::WIDE) !== 0 ? $wide : 32;
        if ($this->inodeSize < 128 || $this->inodeSize > $this->blockSize || $this->descriptorSize < 32 || $this->descriptorSize > 1024) {
            throw UnreadableVolume::damaged('its superblock says what cannot be');
        }
        if (($fields['incompatible'] & self::RECOVER) !== 0) {
            $this->playBack(unpack('V', $super, 224)[1] ?? 0);
        }
    }

    /** @param  int  $inode  of the journal; 0 for one that lies elsewhere */
    private function playBack(int $inode): void
    {
        try {
            if ($inode === 0) {
                throw UnreadableVolume::because('has its journal on another disk');
            }
            $places = (new ExtMap($this->disk, $this->blockSize, $this->inode($inode)))->places();
            $journal = ExtJournal::read($this->disk, $this->blockSize, $places);
        } catch (UnreadableVolume $unreadable) {
            $this->losses[] = "It was in use, and {$unreadable->getMessage()}: what was written last may be missing.";

            return;
        }
        if (! $journal->isEmpty()) {
            $this->disk = new PlayedBack($this->disk, $this->blockSize, $journal);
            $this->tables = [];
        }
        if ($journal->isBroken) {
            $this->losses[] = 'It was in use: the last thing in its journal was not finished, and is left out as a mount would.';
        }
    }

    /** Null if a volume holds no such file system. */
    public static function on(Disk $disk): ?self
    {
        $super = $disk->read(1024, 1024);

        return strlen($super) === 1024 && (unpack('v', $super, 56)[1] ?? 0) === self::MAGIC ? new self($disk, $super) : null;
    }

    public function type(): string
    {
        return match (true) {
            ($this->super['incompatible'] & (0x40 | self::WIDE)) !== 0 => 'ext4',
            ($this->super['compatible'] & 0x4) !== 0 => 'ext3',
            default => 'ext2',
        };
    }

    public function label(): string
    {
        return rtrim((string) $this->super['label'], "\0");
    }

    public function losses(): array
    {
        return $this->losses;
    }

    public function root(): FoundFile
    {
        return $this->file(self::ROOT);
    }

    public function children(FoundFile $folder): iterable
    {
        $inode = $this->inode($folder->node);
        if ($inode->kind !== 0x4) {
            return;
        }
        if ($inode->size > self::LARGEST_FOLDER) {
            throw UnreadableVolume::damaged("a folder says it has {$inode->size} bytes");
        }
        $names = 0;
        foreach ($this->names($inode) as $name => $node) {
            if (++$names > self::MOST_NAMES) {
                throw UnreadableVolume::damaged('a folder has more names than one can have');
            }
            yield (string) $name => $this->file($node);
        }
    }

    public function child(FoundFile $folder, string $name): ?FoundFile
    {
        $inode = $this->inode($folder->node);
        foreach ($inode->kind === 0x4 && $inode->size <= self::LARGEST_FOLDER ? $this->names($inode) : [] as $found => $node) {
            if ((string) $found === $name) {
                return $this->file($node);
            }
        }

        return null;
    }

    /** @return iterable<array-key, int> name => number of its inode */
    private function names(ExtInode $inode): iterable
    {
        foreach ($this->blocks($inode) as $block) {
            for ($at = 0, $length = strlen($block); $at + 8 <= $length; $at += $size) {
                ['node' => $node, 'size' => $size] = unpack('Vnode/vsize', $block, $at) ?: ['node' => 0, 'size' => 0];
                $size = $size === 0xFFFF || $size === 0 ? $this->blockSize - $at % $this->blockSize : $size;
                $bytes = ord($block[$at + 6]);
                if ($size < 8 || $at + $size > $length || $bytes > $size - 8) {
                    throw UnreadableVolume::damaged('a folder has an entry that is none');
                }
                $name = substr($block, $at + 8, $bytes);
                if ($node !== 0 && $bytes > 0 && $name !== '.' && $name !== '..') {
                    Posix::refuseOdd($name);
                    yield $name => $node;
                }
            }
        }
    }

    public function content(FoundFile $file): iterable
    {
        $inode = $this->inode($file->node);
        if ($inode->kind !== 0x8) {
            return;
        }
        yield from $this->blocks($inode);
    }

    /** @return iterable<string> the content of an inode, in pieces of whole blocks but for the last */
    private function blocks(ExtInode $inode): iterable
    {
        if ($inode->isInline()) {
            yield $inode->inline();

            return;
        }
        yield from (new ExtMap($this->disk, $this->blockSize, $inode))->content();
    }

    private function file(int $node): FoundFile
    {
        $inode = $this->inode($node);
        $kind = Posix::kind($inode->kind, $node);
        $target = '';
        if ($kind === EntryKind::Symlink) {
            $target = $inode->shortTarget() ?? '';
            foreach ($target === '' && $inode->size > 0 && $inode->size <= $this->blockSize ? $this->blocks($inode) : [] as $bytes) {
                $target .= $bytes;
            }
        }

        return new FoundFile(
            $node,
            new Version(
                $kind,
                $kind === EntryKind::File ? $inode->size : 0,
                $inode->mtime,
                null,
                $inode->mode,
                $inode->uid,
                $inode->gid,
                '',
                '',
                $target,
                $kind === EntryKind::File && $inode->links > 1 ? $node : 0,
                $kind === EntryKind::File && $inode->isSparse(),
            ),
            ExtAttributes::of($inode, $this->block(...)),
        );
    }

    private function block(int $number): string
    {
        return $this->disk->read($number * $this->blockSize, $this->blockSize);
    }

    private function inode(int $number): ExtInode
    {
        if ($number < 1 || $number > $this->super['inodes']) {
            throw UnreadableVolume::damaged("there is no inode $number");
        }
        $group = intdiv($number - 1, (int) $this->super['inodesPerGroup']);
        $at = $this->table($group) * $this->blockSize + (($number - 1) % (int) $this->super['inodesPerGroup']) * $this->inodeSize;
        $bytes = $this->disk->read($at, $this->inodeSize);
        if (strlen($bytes) !== $this->inodeSize) {
            throw UnreadableVolume::damaged("the inode $number does not lie within it");
        }

        return new ExtInode($bytes);
    }

    private function table(int $group): int
    {
        if (! isset($this->tables[$group])) {
            $at = ((int) $this->super['first'] + 1) * $this->blockSize + $group * $this->descriptorSize;
            $descriptor = str_pad($this->disk->read($at, $this->descriptorSize), 64, "\0");
            $low = unpack('V', $descriptor, 8)[1] ?? 0;
            $high = $this->descriptorSize >= 64 ? unpack('V', $descriptor, 40)[1] ?? 0 : 0;
            $this->tables[$group] = ($high << 32) | $low;
        }

        return $this->tables[$group];
    }
}
