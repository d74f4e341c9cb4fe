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
        yield from $this->also();
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
        foreach ($this->plan->disks as $disk) {
            yield from $this->disk($disk);
        }
        foreach ($this->plan->groups as $group) {
            yield '';
            yield "# The volume group {$group->was->name}";
            foreach ($group->volumes as $volume) {
                yield from $this->fill(Place::inGroup($group, $volume));
            }
        }
        yield '';
        yield '# File systems, filled';
        foreach ($this->trees() as $place) {
            yield from $this->tree($place);
        }
        yield 'sync';
        yield 'echo "All is written, and the file systems on it are sound."';
    }

    /** @return iterable<string> functions that one form needs beside */
    protected function also(): iterable
    {
        return [];
    }

    /** @return iterable<string> what copies the code by which it starts, before its table and behind it */
    abstract protected function code(PlannedDisk $disk, string $onto): iterable;

    /** @return iterable<string> what copies what comes byte by byte */
    abstract protected function image(Place $place): iterable;

    /** @return iterable<string> what makes a file system with its files */
    abstract protected function tree(Place $place): iterable;

    /** A disk of the machine, as a shell has it. */
    private function variable(PlannedDisk $disk): string
    {
        return '"$DISK_'.((int) array_search($disk, $this->plan->disks, true) + 1).'"';
    }

    /**
     * @param  int|null  $bytes  of the beginning alone
     * @return iterable<string> what copies a file onto all pieces of a place
     */
    final protected function onto(Place $place, string $file, ?int $bytes = null): iterable
    {
        $at = 0;
        foreach ($place->pieces as $piece) {
            $length = min($piece->bytes, ($bytes ?? $place->bytes) - $at);
            if ($length > 0) {
                yield "copy $file $at $length {$this->variable($piece->disk)} {$piece->from}";
            }
            $at += $piece->bytes;
        }
    }

    /**
     * XFS is filled while it is mounted, which needs a loop device; and a file, where it comes to lie in pieces.
     *
     * @param  list<string>  $from  lines after which what stands in $was is a folder with its files
     * @param  list<string>  $after  lines once they were taken
     * @return iterable<string>
     */
    final protected function xfs(Place $place, array $from, array $after): iterable
    {
        $of = $place->content;
        $options = [
            $of->uuid === '' ? '' : "-m uuid={$of->uuid}", "-b size={$of->block}", '-m '.XfsOptions::ofMetadata($of),
            '-i '.XfsOptions::ofInodes($of), '-n '.XfsOptions::ofNames($of), $of->label === '' ? '' : '-L '.HandSheet::quoted($of->label),
        ];
        [$piece, $isWhole] = [$place->pieces[0], count($place->pieces) === 1];
        $isWhole || yield "truncate -s {$place->bytes} \"\$1\"/part";
        yield 'loop=$(losetup --find --show '.($isWhole
            ? "--offset {$piece->from} --sizelimit {$piece->bytes} {$this->variable($piece->disk)})"
            : '"$1"/part)');
        yield 'mkfs.xfs -q -f -K '.implode(' ', array_filter($options)).' "$loop"';
        yield from $from;
        yield 'here=$1/mounted; mkdir "$here"; mount -t xfs "$loop" "$here"';
        yield 'tar -C "$was" --numeric-owner --acls --xattrs --xattrs-include="*" -cpf - . |';
        yield '  tar -C "$here" --numeric-owner --same-owner --acls --xattrs --xattrs-include="*" -xpf -';
        yield from $after;
        yield 'umount "$here"; rmdir "$here"; xfs_repair -n "$loop" >/dev/null 2>&1; losetup --detach "$loop"';
        if (! $isWhole) {
            yield from $this->onto($place, '"$1"/part');
            yield 'rm "$1"/part';
        }
    }

    /** @return list<Place> file systems that are made */
    protected function trees(): array
    {
        return array_values(array_filter($this->plan->places(), fn (Place $one): bool => $one->content->kind->isFilled()));
    }

    /** @return iterable<string> */
    private function disk(PlannedDisk $disk): iterable
    {
        $onto = $this->variable($disk);
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
            yield from $this->fill(Place::onDisk($disk, $one));
        }
        yield "blockdev --rereadpt $onto 2>/dev/null || true";
    }

    /** @return iterable<string> */
    private function fill(Place $place): iterable
    {
        yield from match ($place->content->kind) {
            ContentKind::Image => $this->image($place),
            ContentKind::Swap => $this->swap($place),
            ContentKind::Group => $this->head($place),
            ContentKind::Ext, ContentKind::Xfs => [],
            ContentKind::Blank => ["# {$place->key} is left blank: the set has nothing of it."],
        };
    }

    /** @return iterable<string> */
    private function swap(Place $place): iterable
    {
        $part = '"$1"/part';
        $content = $place->content;
        $label = $content->label === '' ? '' : ' -L '.HandSheet::quoted($content->label);
        yield "truncate -s {$place->bytes} $part";
        yield 'mkswap --quiet'.($content->uuid === '' ? '' : " -U {$content->uuid}")."$label $part";
        yield from $this->onto($place, $part, 1 << 20);
        yield "rm $part";
    }

    /** @return iterable<string> what a part of a volume group is known by, as it stands in the sheet */
    private function head(Place $place): iterable
    {
        [$group, $part] = $this->plan->part($place->key) ?? throw UnfitLayout::at($place->key, 'is a part of no volume group.');
        yield "base64 -d <<'HEAD' | gunzip -c >\"\$1\"/part";
        yield rtrim(chunk_split(base64_encode((string) gzencode(GroupHead::bytes($part, $group->text()), 9)), 76, "\n"));
        yield 'HEAD';
        yield from $this->onto($place, '"$1"/part', PlannedGroup::HEAD);
        yield 'rm "$1"/part';
    }

    private static function words(TargetDisk $disk): string
    {
        return "{$disk->name} of {$disk->bytes} bytes".
            ($disk->serial === '' ? '' : ', '.preg_replace('/[^A-Za-z0-9._-]/', '?', $disk->serial));
    }
}
