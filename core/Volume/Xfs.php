<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Machine\Disk;

/** XFS, versions 4 and 5, as "XFS Algorithms & Data Structures" (of its developers, 3rd edition) and the kernel's xfs_format.h have it. */
final class Xfs implements FileSystem
{
    private const LONGEST_TARGET = 4096;

    /** Bytes in front of each block of a target that stands in blocks. */
    private const TARGET_HEAD = 56;

    private readonly XfsGeometry $geometry;

    private function __construct(Disk $disk, string $first)
    {
        $this->geometry = XfsGeometry::of($disk, $first);
    }

    /** Null if a volume holds no such file system. */
    public static function on(Disk $disk): ?self
    {
        $first = $disk->read(0, 512);

        return strlen($first) === 512 && str_starts_with($first, 'XFSB') ? new self($disk, $first) : null;
    }

    public function type(): string
    {
        return 'XFS';
    }

    public function label(): string
    {
        return mb_scrub($this->geometry->label);
    }

    /** Whether its log holds nothing that is still to be done: it was taken out of use in order, or is new. */
    public function isClean(): bool
    {
        return $this->geometry->log()?->isClean() ?? false;
    }

    public function losses(): array
    {
        return $this->isClean() ? [] : ['The log of XFS is not played back: of one that was in use, what was written last may be missing.'];
    }

    public function root(): FoundFile
    {
        return $this->file($this->geometry->root);
    }

    public function children(FoundFile $folder): iterable
    {
        foreach ($this->names($folder) as $name => $number) {
            yield (string) $name => $this->file($number);
        }
    }

    public function child(FoundFile $folder, string $name): ?FoundFile
    {
        foreach ($this->names($folder) as $found => $number) {
            if ((string) $found === $name) {
                return $this->file($number);
            }
        }

        return null;
    }

    /** @return iterable<array-key, int> */
    private function names(FoundFile $folder): iterable
    {
        if ($folder->version->kind !== EntryKind::Folder) {
            return;
        }
        foreach (XfsFolder::names($this->inode($folder->node), $this->geometry) as $name => $number) {
            Posix::refuseOdd((string) $name);
            yield $name => $number;
        }
    }

    public function content(FoundFile $file): iterable
    {
        $inode = $this->inode($file->node);

        return $inode->kind === 0x8 ? XfsMap::ofContent($this->geometry, $inode)->content($inode->size) : [];
    }

    private function inode(int $number): XfsInode
    {
        return new XfsInode($this->geometry->inode($number));
    }

    private function file(int $number): FoundFile
    {
        $inode = $this->inode($number);
        $kind = Posix::kind($inode->kind, $number);

        return new FoundFile($number, new Version(
            $kind,
            $kind === EntryKind::File ? $inode->size : 0,
            $inode->mtime,
            null,
            $inode->mode,
            $inode->uid,
            $inode->gid,
            '',
            '',
            $kind === EntryKind::Symlink ? $this->target($inode) : '',
            $kind === EntryKind::File && $inode->links > 1 ? $number : 0,
        ), XfsAttributes::of($inode, $this->geometry));
    }

    private function target(XfsInode $inode): string
    {
        $inode->size <= self::LONGEST_TARGET || throw UnreadableVolume::damaged('a link leads further than one can');
        if ($inode->format === XfsInode::LOCAL) {
            return substr($inode->fork, 0, $inode->size);
        }
        $map = XfsMap::ofContent($this->geometry, $inode);
        $head = $this->geometry->version === 5 ? self::TARGET_HEAD : 0;
        $target = '';
        for ($i = 0; strlen($target) < $inode->size; $i++) {
            $target .= substr($map->read($i * $this->geometry->blockSize, $this->geometry->blockSize), $head);
        }

        return substr($target, 0, $inode->size);
    }
}
