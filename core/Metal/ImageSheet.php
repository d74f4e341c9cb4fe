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

    /** @return iterable<string> */
    protected function also(): iterable
    {
        $pieces = array_merge(...array_map(fn (Place $one): array => $one->lay, $this->plan->places()));
        if (array_filter($pieces, fn (RecordedPiece $one): bool => count($one->stripes) > 1) === []) {
            return;
        }
        yield '# by_turns ONTO AT WIDTH ROUNDS FROM OFFSET [FROM OFFSET]...: what lay in stripes';
        yield 'by_turns() {';
        yield '  strips=$1 at=$2 width=$3 rounds=$4 round=0';
        yield '  shift 4';
        yield '  while [ $round -lt "$rounds" ]; do';
        yield '    number=0';
        yield '    while [ $number -lt $# ]; do';
        yield '      copy "$1" $(($2 + round * width)) "$width" "$strips" "$at"';
        yield '      at=$((at + width)) number=$((number + 2))';
        yield '      set -- "$@" "$1" "$2"';
        yield '      shift 2';
        yield '    done';
        yield '    round=$((round + 1))';
        yield '  done';
        yield '}';
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

    protected function image(Place $place): iterable
    {
        yield from $this->take($place, '"$1"/part');
        yield from $this->onto($place, '"$1"/part', $place->was);
        yield 'rm "$1"/part';
    }

    protected function tree(Place $place): iterable
    {
        if ($place->content->kind === ContentKind::Xfs) {
            yield from $this->xfs($place, [
                ...$this->take($place, '"$1"/from'),
                'was=$1/was; mkdir "$was"; mount -t xfs -o loop,ro,norecovery,nouuid "$1"/from "$was"',
            ], ['umount "$was"; rmdir "$was"; rm "$1"/from']);

            return;
        }
        $part = '"$1"/part';
        $kibibytes = intdiv($place->bytes, 1024);
        yield from $this->take($place, $part);
        yield "e2fsck -fp $part >/dev/null || [ \$? -eq 1 ]";
        yield "resize2fs $part {$kibibytes}K >/dev/null 2>&1";
        yield "e2fsck -fn $part >/dev/null";
        yield from $this->onto($place, $part, $kibibytes * 1024);
        yield "rm $part";
    }

    /** @return list<string> what puts what lay there into a file, out of the raw images */
    private function take(Place $place, string $file): array
    {
        $starts = $raws = [];
        foreach ($this->plan->disks as $disk) {
            foreach ($disk->was->partitions as $one) {
                [$starts[$disk->was->key($one)], $raws[$disk->was->key($one)]] = [$one->start, $this->raw($disk)];
            }
        }
        $lines = [];
        $at = 0;
        foreach ($place->lay as $piece) {
            $from = array_map(fn (array $one): string => "{$raws[$one[0]]} ".($starts[$one[0]] + $one[1]), $piece->stripes);
            $rounds = intdiv($piece->bytes, $piece->width * count($from));
            $lines[] = count($from) === 1
                ? "copy $from[0] {$piece->bytes} $file $at"
                : "by_turns $file $at {$piece->width} $rounds ".implode(' ', $from);
            $at += $piece->bytes;
        }

        return $lines;
    }
}
