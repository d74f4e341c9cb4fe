<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Machine\Disk;

/**
 * Btrfs on one disk, as its on-disk format is documented ("On-disk Format" of btrfs.readthedocs.io, and the kernel's btrfs_tree.h). Further
 * subvolumes, and snapshots, are folders where they stand.
 */
final class Btrfs implements FileSystem
{
    private const LISTS = ['system.posix_acl_access' => 'SCHILY.acl.access', 'system.posix_acl_default' => 'SCHILY.acl.default'];

    private const FIRST = 65_536;

    private const MAGIC = '_BHRfS_M';

    /** Of the number by which a file is known here: those of its own, below that of its subvolume. */
    private const OWN_BITS = 40;

    private const MAIN = 5;

    private const ROOT_OF_TREE = 256;

    private const LONGEST_TARGET = 4096;

    private readonly BtrfsTrees $trees;

    private function __construct(Disk $disk, string $first)
    {
        $this->trees = new BtrfsTrees($disk, $first);
    }

    /** Null if a volume holds no such file system. */
    public static function on(Disk $disk): ?self
    {
        $first = $disk->size() > self::FIRST + 4096 ? $disk->read(self::FIRST, 4096) : '';

        return substr($first, 64, 8) === self::MAGIC ? new self($disk, $first) : null;
    }

    public function type(): string
    {
        return 'Btrfs';
    }

    public function label(): string
    {
        return mb_scrub($this->trees->label);
    }

    public function losses(): array
    {
        $lost = 'It was in use: what its log has is not played back, and what was written last may be missing.';

        return $this->trees->hasLog ? [$lost] : [];
    }

    public function root(): FoundFile
    {
        return $this->file(self::MAIN, self::ROOT_OF_TREE);
    }

    public function children(FoundFile $folder): iterable
    {
        foreach ($this->names($folder) as $name => [$tree, $number]) {
            yield (string) $name => $this->file($tree, $number);
        }
    }

    public function child(FoundFile $folder, string $name): ?FoundFile
    {
        foreach ($this->names($folder) as $found => [$tree, $number]) {
            if ((string) $found === $name) {
                return $this->file($tree, $number);
            }
        }

        return null;
    }

    /** @return iterable<array-key, array{int, int}> name => subvolume, and number in it */
    private function names(FoundFile $folder): iterable
    {
        [$tree, $number] = self::place($folder->node);
        foreach ($folder->version->kind === EntryKind::Folder ? $this->trees->items($tree, $number, BtrfsItem::DIR_INDEX) : [] as $item) {
            $entry = $item->entry() ?? throw UnreadableVolume::damaged('a folder has an entry that is none');
            Posix::refuseOdd($entry->name);
            // A snapshot does not take subvolumes along: what is left of one leads nowhere.
            if ($entry->type !== BtrfsItem::ROOT || $this->trees->isIn($tree, $entry->number)) {
                yield $entry->name => $entry->type === BtrfsItem::ROOT ? [$entry->number, self::ROOT_OF_TREE] : [$tree, $entry->number];
            }
        }
    }

    public function content(FoundFile $file): iterable
    {
        [$tree, $number] = self::place($file->node);

        return $file->version->kind === EntryKind::File
            ? (new BtrfsContent($this->trees, $tree, $number, $file->version->size))->pieces()
            : [];
    }

    /** @return array{int, int} */
    private static function place(int $node): array
    {
        return [$node >> self::OWN_BITS, $node & ((1 << self::OWN_BITS) - 1)];
    }

    private function file(int $tree, int $number): FoundFile
    {
        if ($tree < 0 || $tree >= 1 << 62 - self::OWN_BITS || $number < 0 || $number >= 1 << self::OWN_BITS) {
            throw UnreadableVolume::because('has files with numbers that are too large to be read');
        }
        $bytes = '';
        foreach ($this->trees->items($tree, $number, BtrfsItem::INODE) as $item) {
            $bytes = $item->data;
        }
        $fields = strlen($bytes) >= 160 ? unpack('Psize/x16/Vlinks/Vuid/Vgid/Vmode/x80/Pseconds/Vparts', $bytes, 16) : false;
        if ($fields === false || $fields['size'] < 0) {
            throw UnreadableVolume::damaged("the inode $number is none");
        }
        $kind = Posix::kind($fields['mode'] >> 12 & 0xF, $number);
        $node = $tree << self::OWN_BITS | $number;
        $seconds = max(-Posix::LAST_SECOND, min(Posix::LAST_SECOND, $fields['seconds']));

        return new FoundFile($node, new Version(
            $kind,
            $kind === EntryKind::File ? $fields['size'] : 0,
            $seconds * 1_000_000_000 + $fields['parts'] % 1_000_000_000,
            null,
            $fields['mode'] & 07777,
            $fields['uid'],
            $fields['gid'],
            '',
            '',
            $kind === EntryKind::Symlink ? $this->target($tree, $number, $fields['size']) : '',
            $kind === EntryKind::File && $fields['links'] > 1 ? $node : 0,
        ), $this->attributes($tree, $number));
    }

    private function target(int $tree, int $number, int $size): string
    {
        $size <= self::LONGEST_TARGET || throw UnreadableVolume::damaged('a link leads further than one can');

        return implode('', [...(new BtrfsContent($this->trees, $tree, $number, $size))->pieces()]);
    }

    /** @return array<string, string> what people set, access lists, and how the system treats it, as TarEntry::$extended has them */
    private function attributes(int $tree, int $number): array
    {
        $found = [];
        foreach ($this->trees->items($tree, $number, BtrfsItem::XATTR) as $item) {
            for ($at = 0; ($entry = $item->entry($at)) !== null; $at += $entry->bytes) {
                $list = isset(self::LISTS[$entry->name]) ? PosixAccessList::text($entry->value) : null;
                if ($list !== null) {
                    $found[self::LISTS[$entry->name]] = $list;
                } elseif (preg_match('/^(user|trusted|security)\./', $entry->name) === 1) {
                    $found["SCHILY.xattr.{$entry->name}"] = $entry->value;
                }
            }
        }

        return $found;
    }
}
