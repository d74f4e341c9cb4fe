<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Proof\HandSheet;

/**
 * Out of raw images of the disks: file systems are made to fit by resize2fs(8), which loses nothing of them. It needs sh, dd, sfdisk,
 * wipefs, e2fsck, resize2fs and mkswap.
 */
final readonly class ImageSheet extends MetalSheet
{
    /** @param  string  $workload  as its raw images are called: WORKLOAD.DISK.raw */
    public function __construct(LayoutPlan $plan, private string $workload)
    {
        parent::__construct($plan);
    }

    private function raw(PlannedDisk $disk): string
    {
        return '"$1"/'.HandSheet::quoted("$this->workload.{$disk->was->name}.raw");
    }

    protected function code(PlannedDisk $disk, string $onto): iterable
    {
        yield "copy {$this->raw($disk)} 0 ".LayoutReading::CODE." $onto 0";
        if ($disk->gap() > 0) {
            yield "copy {$this->raw($disk)} 512 {$disk->gap()} $onto 512";
        }
    }

    protected function image(PlannedDisk $disk, PlannedPartition $one, string $onto): iterable
    {
        yield "copy {$this->raw($disk)} {$one->was->start} {$one->was->bytes} $onto {$one->start}";
    }

    protected function tree(PlannedDisk $disk, PlannedPartition $one, string $onto): iterable
    {
        if ($one->was->content->kind === ContentKind::Xfs) {
            yield from self::xfs($one, $onto, [
                "from=\$(losetup --find --show --read-only --offset {$one->was->start} --sizelimit {$one->was->bytes} {$this->raw($disk)})",
                'was=$1/was; mkdir "$was"; mount -t xfs -o ro,norecovery,nouuid "$from" "$was"',
                'tar -C "$was" --numeric-owner --acls --xattrs --xattrs-include="*" -cpf - . |',
                '  tar -C "$here" --numeric-owner --same-owner --acls --xattrs --xattrs-include="*" -xpf -',
                'umount "$was"; rmdir "$was"; losetup --detach "$from"',
            ]);

            return;
        }
        $part = '"$1"/part';
        $kibibytes = intdiv($one->bytes, 1024);
        yield "copy {$this->raw($disk)} {$one->was->start} {$one->was->bytes} $part 0";
        yield "e2fsck -fp $part >/dev/null || [ \$? -eq 1 ]";
        yield "resize2fs $part {$kibibytes}K >/dev/null 2>&1";
        yield "copy $part 0 ".($kibibytes * 1024)." $onto {$one->start}";
        yield "rm $part";
        yield "e2fsck -fn $onto'?offset={$one->start}' >/dev/null";
    }
}
