<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/**
 * What a medium is told to do: a word and its arguments a line (resources/medium/init knows them), which name contents that it fetches and
 * lists that it sends. The first line binds all of it to one enrolment.
 */
final class MetalOrders
{
    private const HEAD = 'kaiseki-orders 1';

    /** Bytes behind the first sector in which loaders lie, where there is no partition: GNU GRUB's manual, "BIOS installation". */
    public const GAP = 1 << 20;

    /** Of an ext file system: bytes for each inode that mke2fs(8) makes by itself. */
    private const BYTES_PER_INODE = 16_384;

    /** Features that say nothing of how it is laid out, or that mke2fs(8) is not asked for: it makes them as it needs them. */
    private const NOT_ASKED = ['orphan_file', 'sparse_super2', 'meta_bg', 'metadata_csum_seed', 'stable_inodes'];

    /** @var list<string> */
    private array $lines = [];

    /** @var list<OrderedContent> */
    private array $fetched = [];

    /** @var list<OrderedContent> */
    private array $sent = [];

    private function __construct()
    {
    }

    /**
     * @param  string  $token  SHA-256 of the token of the enrolment, in hexadecimal
     * @param  bool  $rehearses  whether all is done but writing
     */
    public static function of(LayoutPlan $plan, string $token, bool $rehearses, bool $restarts): self
    {
        $orders = new self;
        $orders->lines = [self::HEAD." $token", ...$rehearses ? ['rehearse'] : []];
        // Every disk is looked at before the first is touched.
        foreach ($plan->disks as $disk) {
            $orders->lines[] = "disk {$disk->onto->name} {$disk->onto->bytes}";
        }
        foreach ($plan->disks as $disk) {
            $orders->disk($disk);
        }
        foreach ($plan->disks as $disk) {
            $orders->readBack($disk);
        }
        $orders->lines[] = $restarts && ! $rehearses ? 'reboot' : 'off';

        return $orders;
    }

    public function text(): string
    {
        return implode("\n", $this->lines)."\n";
    }

    /** @return list<OrderedContent> that it fetches, in their order */
    public function contents(): array
    {
        return $this->fetched;
    }

    /** @return list<OrderedContent> that it reads back and sends, in their order */
    public function listings(): array
    {
        return $this->sent;
    }

    private function disk(PlannedDisk $disk): void
    {
        $name = $disk->onto->name;
        $this->lines[] = "table $name ".$this->fetch(OrderedContent::TABLE, $disk);
        if ($disk->was->startsCode) {
            $this->lines[] = "code $name ".$this->fetch(OrderedContent::CODE, $disk).' '.LayoutReading::CODE.' 0';
            if ($disk->was->table === 'dos') {
                $this->lines[] = "code $name ".$this->fetch(OrderedContent::GAP, $disk).' 512 1';
            }
        }
        foreach ($disk->partitions as $one) {
            $of = $one->was->content;
            $at = "$name {$one->was->number}";
            $order = match ($of->kind) {
                ContentKind::Image => "image $at ".$this->fetch(OrderedContent::IMAGE, $disk, $one),
                ContentKind::Swap => "swap $at ".($of->uuid === '' ? '-' : $of->uuid).' '.self::hex($of->label),
                ContentKind::Ext => "ext $at ".$this->fetch(OrderedContent::FILES, $disk, $one).' '.self::ext($one),
                ContentKind::Xfs => "xfs $at ".$this->fetch(OrderedContent::FILES, $disk, $one).' '.self::xfs($one->was->content),
                ContentKind::Blank => null,
            };
            $order === null || $this->lines[] = $order;
        }
    }

    /** TYPE UUID BLOCK INODE INODES FEATURES LABEL: as mke2fs(8) takes them. */
    private static function ext(PlannedPartition $one): string
    {
        $of = $one->was->content;
        $usual = intdiv($one->bytes, self::BYTES_PER_INODE);
        $wanted = intdiv($of->inodes * 5, 4);
        $features = array_diff($of->features, self::NOT_ASKED);

        return implode(' ', [
            $of->type,
            $of->uuid === '' ? 'random' : $of->uuid,
            (string) $of->block,
            (string) $of->inode,
            (string) ($wanted > $usual ? $wanted : 0),
            $features === [] ? 'none' : implode(',', $features),
            self::hex($of->label),
        ]);
    }

    /** UUID BLOCK and what mkfs.xfs(8) takes behind -m, -i and -n; LABEL. */
    private static function xfs(Content $of): string
    {
        return implode(' ', [
            $of->uuid === '' ? 'random' : $of->uuid,
            (string) $of->block,
            XfsOptions::ofMetadata($of),
            XfsOptions::ofInodes($of),
            XfsOptions::ofNames($of),
            self::hex($of->label),
        ]);
    }

    private function readBack(PlannedDisk $disk): void
    {
        foreach ($disk->partitions as $one) {
            $at = "{$disk->onto->name} {$one->was->number}";
            if ($one->was->content->kind->isFilled()) {
                $number = $this->send(OrderedContent::FILES, $disk, $one);
                $this->lines[] = "list $at $number ".strtolower($one->was->content->type);
            } elseif ($one->was->content->kind === ContentKind::Image) {
                $this->lines[] = "sum $at ".$this->send(OrderedContent::IMAGE, $disk, $one)." {$one->was->bytes}";
            }
        }
    }

    private function fetch(string $kind, PlannedDisk $disk, ?PlannedPartition $one = null): int
    {
        $this->fetched[] = new OrderedContent(count($this->fetched), $kind, $disk, $one);

        return count($this->fetched) - 1;
    }

    private function send(string $kind, PlannedDisk $disk, PlannedPartition $one): int
    {
        $this->sent[] = new OrderedContent(count($this->sent), $kind, $disk, $one);

        return count($this->sent) - 1;
    }

    private static function hex(string $label): string
    {
        return $label === '' ? '-' : bin2hex($label);
    }
}
