<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Proof\HandSheet;

/**
 * The same as a medium does, as commands for a person at a rescue shell, out of raw images of the disks: tables by sfdisk(8), file
 * systems made to fit by resize2fs(8), which loses nothing of them. It needs sh, dd, sfdisk, wipefs, e2fsck, resize2fs and mkswap.
 */
final readonly class MetalSheet
{
    /** @param  string  $workload  as its raw images are called: WORKLOAD.DISK.raw */
    public function __construct(private LayoutPlan $plan, private string $workload)
    {
    }

    /** @return iterable<string> lines that follow those by which the images were made, in the folder $1 */
    public function lines(): iterable
    {
        yield '';
        yield '# copy FROM OFFSET BYTES ONTO START';
        yield 'copy() {';
        yield '  dd if="$1" of="$4" bs=1M iflag=skip_bytes,count_bytes,fullblock oflag=seek_bytes skip="$2" count="$3" seek="$5" \\';
        yield '    conv=notrunc,fsync status=none';
        yield '}';
        $onto = [];
        foreach ($this->plan->disks as $number => $disk) {
            $variable = 'DISK_'.($number + 1);
            yield "$variable=\${{$variable}:-/dev/{$disk->onto->name}} # {$disk->was->name}, onto ".self::words($disk->onto);
            $onto[] = "\$$variable";
        }
        yield 'printf \'%s\' "Type WRITE to write over '.implode(' and ', $onto).': "';
        yield 'read -r said';
        yield '[ "$said" = WRITE ] || { echo "Nothing was written." >&2; exit 2; }';
        foreach ($this->plan->disks as $number => $disk) {
            yield from $this->disk($disk, '"$DISK_'.($number + 1).'"');
        }
        yield 'sync';
        yield 'echo "All is written, and the file systems on it are sound."';
    }

    /** @return iterable<string> */
    private function disk(PlannedDisk $disk, string $onto): iterable
    {
        $raw = '"$1"/'.HandSheet::quoted("$this->workload.{$disk->was->name}.raw");
        yield '';
        yield "# {$disk->was->name}";
        yield "wipefs --all --quiet --force $onto";
        if ($disk->was->table !== '') {
            yield "sfdisk --quiet --wipe always --wipe-partitions always $onto <<'TABLE'";
            yield rtrim($disk->script());
            yield 'TABLE';
        }
        if ($disk->was->startsCode) {
            yield "copy $raw 0 ".LayoutReading::CODE." $onto 0";
            if ($disk->gap() > 0) {
                yield "copy $raw 512 {$disk->gap()} $onto 512";
            }
        }
        foreach ($disk->partitions as $one) {
            yield from self::partition($one, $raw, $onto);
        }
        yield "blockdev --rereadpt $onto 2>/dev/null || true";
    }

    /** @return iterable<string> */
    private static function partition(PlannedPartition $one, string $raw, string $onto): iterable
    {
        [$was, $content] = [$one->was, $one->was->content];
        $part = '"$1"/part';
        if ($content->kind === ContentKind::Image) {
            yield "copy $raw {$was->start} {$was->bytes} $onto {$one->start}";

            return;
        }
        if ($content->kind === ContentKind::Ext) {
            $kibibytes = intdiv($one->bytes, 1024);
            yield "copy $raw {$was->start} {$was->bytes} $part 0";
            yield "e2fsck -fp $part >/dev/null || [ \$? -eq 1 ]";
            yield "resize2fs $part {$kibibytes}K >/dev/null 2>&1";
            yield "copy $part 0 ".($kibibytes * 1024)." $onto {$one->start}";
            yield "rm $part";
            yield "e2fsck -fn $onto'?offset={$one->start}' >/dev/null";

            return;
        }
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
