<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Proof\HandSheet;

/** The same as a medium does, as commands for a person at a rescue shell: what all forms of sets have in common. */
abstract readonly class MetalSheet
{
    public function __construct(protected LayoutPlan $plan)
    {
    }

    /** @return iterable<string> lines that follow those by which what is needed was put into the folder $1 */
    final public function lines(): iterable
    {
        yield '';
        yield '# copy FROM OFFSET BYTES ONTO START';
        yield 'copy() {';
        yield '  dd if="$1" of="$4" bs=1M iflag=skip_bytes,count_bytes,fullblock oflag=seek_bytes skip="$2" count="$3" seek="$5" \\';
        yield '    conv=notrunc,fsync status=none';
        yield '}';
        yield '# fits DISK BYTES';
        yield 'fits() {';
        yield '  [ "$(blockdev --getsize64 "$1" 2>/dev/null || stat -c %s "$1")" -ge "$2" ] && return';
        yield '  echo "$1 has fewer than $2 bytes. Nothing was written." >&2';
        yield '  exit 2';
        yield '}';
        $onto = [];
        foreach ($this->plan->disks as $number => $disk) {
            $variable = 'DISK_'.($number + 1);
            yield "$variable=\${{$variable}:-/dev/{$disk->onto->name}} # {$disk->was->name}, onto ".self::words($disk->onto);
            yield "fits \"\$$variable\" {$disk->onto->bytes}";
            $onto[] = "\$$variable";
        }
        yield 'printf \'%s\' "Type WRITE to write over '.implode(' and ', $onto).': "';
        yield 'read -r said';
        yield '[ "$said" = WRITE ] || { echo "Nothing was written." >&2; exit 2; }';
        foreach ($this->plan->disks as $number => $disk) {
            yield from $this->disk($disk, '"$DISK_'.($number + 1).'"');
        }
        yield '';
        yield '# File systems, filled';
        foreach ($this->trees() as [$disk, $one, $number]) {
            yield from $this->tree($disk, $one, '"$DISK_'.($number + 1).'"');
        }
        yield 'sync';
        yield 'echo "All is written, and the file systems on it are sound."';
    }

    /** @return iterable<string> what copies the code by which it starts, before its table and behind it */
    abstract protected function code(PlannedDisk $disk, string $onto): iterable;

    /** @return iterable<string> what copies a partition byte by byte */
    abstract protected function image(PlannedDisk $disk, PlannedPartition $one, string $onto): iterable;

    /** @return iterable<string> what makes a file system with its files */
    abstract protected function tree(PlannedDisk $disk, PlannedPartition $one, string $onto): iterable;

    /**
     * XFS is filled while it is mounted, which needs a loop device.
     *
     * @param  list<string>  $fill  lines that put its files into the folder that is named by what stands in $here
     * @return iterable<string>
     */
    final protected static function xfs(PlannedPartition $one, string $onto, array $fill): iterable
    {
        $of = $one->was->content;
        $options = [
            $of->uuid === '' ? '' : "-m uuid={$of->uuid}", "-b size={$of->block}", '-m '.XfsOptions::ofMetadata($of),
            '-i '.XfsOptions::ofInodes($of), '-n '.XfsOptions::ofNames($of), $of->label === '' ? '' : '-L '.HandSheet::quoted($of->label),
        ];
        yield "loop=\$(losetup --find --show --offset {$one->start} --sizelimit {$one->bytes} $onto)";
        yield 'mkfs.xfs -q -f -K '.implode(' ', array_filter($options)).' "$loop"';
        yield 'here=$1/mounted; mkdir "$here"; mount -t xfs "$loop" "$here"';
        yield from $fill;
        yield 'umount "$here"; rmdir "$here"; xfs_repair -n "$loop" >/dev/null 2>&1; losetup --detach "$loop"';
    }

    /** @return list<array{PlannedDisk, PlannedPartition, int}> file systems that are made, with the numbers of their disks */
    protected function trees(): array
    {
        $trees = [];
        foreach ($this->plan->disks as $number => $disk) {
            foreach ($disk->partitions as $one) {
                ! $one->was->content->kind->isFilled() || $trees[] = [$disk, $one, $number];
            }
        }

        return $trees;
    }

    /** @return iterable<string> */
    private function disk(PlannedDisk $disk, string $onto): iterable
    {
        yield '';
        yield "# {$disk->was->name}";
        yield "wipefs --all --quiet --force $onto";
        if ($disk->was->table !== '') {
            yield "sfdisk --quiet --wipe always --wipe-partitions always $onto <<'TABLE'";
            yield rtrim($disk->script());
            yield 'TABLE';
        }
        if ($disk->was->startsCode) {
            yield from $this->code($disk, $onto);
        }
        foreach ($disk->partitions as $one) {
            yield from match ($one->was->content->kind) {
                ContentKind::Image => $this->image($disk, $one, $onto),
                ContentKind::Swap => self::swap($one, $onto),
                ContentKind::Ext, ContentKind::Xfs => [],
                ContentKind::Blank => ["# Partition {$one->was->number} is left blank: the set has nothing of it."],
            };
        }
        yield "blockdev --rereadpt $onto 2>/dev/null || true";
    }

    /** @return iterable<string> */
    private static function swap(PlannedPartition $one, string $onto): iterable
    {
        $part = '"$1"/part';
        $content = $one->was->content;
        $label = $content->label === '' ? '' : ' -L '.HandSheet::quoted($content->label);
        yield "truncate -s {$one->bytes} $part";
        yield 'mkswap --quiet'.($content->uuid === '' ? '' : " -U {$content->uuid}")."$label $part";
        yield "copy $part 0 1048576 $onto {$one->start}";
        yield "rm $part";
    }

    private static function words(TargetDisk $disk): string
    {
        return "{$disk->name} of {$disk->bytes} bytes".
            ($disk->serial === '' ? '' : ', '.preg_replace('/[^A-Za-z0-9._-]/', '?', $disk->serial));
    }
}
