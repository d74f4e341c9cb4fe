<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/**
 * What a medium is told to do: a word and its arguments a line (resources/medium/init knows them), which name contents that it fetches and
 * lists that it sends. The first line binds all of it to one enrolment.
 */
final class MetalOrders
{
    private const HEAD = 'kaiseki-orders';

    /** What it does in the end: it goes off, restarts, or waits for further orders. */
    public const OFF = 'off';

    public const REBOOT = 'reboot';

    public const WAIT = 'wait';

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

    /** @var array<string, OrderedContent> place => what is read of it before anything is changed */
    private array $before = [];

    private function __construct()
    {
    }

    /**
     * @param  string  $token  SHA-256 of the token of the enrolment, in hexadecimal
     * @param  bool  $rehearses  whether all is done but writing
     * @param  string  $end  OFF, REBOOT or WAIT
     */
    public static function of(LayoutPlan $plan, string $token, bool $rehearses, string $end): self
    {
        $orders = self::begin($plan, $token, 1, $rehearses);
        foreach ($plan->disks as $disk) {
            $orders->disk($disk);
        }
        foreach ($plan->groups as $group) {
            $orders->group($group);
        }
        foreach ($plan->places() as $place) {
            $orders->readBack($place);
        }
        $orders->lines[] = $rehearses ? self::OFF : $end;

        return $orders;
    }

    /**
     * For one that was brought before, and waits: what lies on its disks becomes that of another point, which was laid out the same way.
     *
     * @param  string  $token  SHA-256 of the token of the enrolment, in hexadecimal
     * @param  int  $number  of these orders: greater than of any before
     * @param  string  $end  OFF, REBOOT or WAIT
     */
    public static function step(LayoutPlan $plan, string $token, int $number, string $end): self
    {
        $orders = self::begin($plan, $token, $number, false);
        foreach ($plan->groups as $group) {
            $orders->activate($group);
        }
        foreach ($plan->places() as $place) {
            $orders->change($place);
        }
        foreach ($plan->places() as $place) {
            $place->content->kind === ContentKind::Group || $orders->readBack($place);
        }
        $orders->lines[] = $end;

        return $orders;
    }

    /** Every disk is looked at before the first is touched. */
    private static function begin(LayoutPlan $plan, string $token, int $number, bool $rehearses): self
    {
        $orders = new self;
        $orders->lines = [self::HEAD." $number $token", ...$rehearses ? ['rehearse'] : []];
        foreach ($plan->disks as $disk) {
            $orders->lines[] = "disk {$disk->onto->name} {$disk->onto->bytes}";
        }

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

    /** @return list<OrderedContent> that it reads back and sends once all is written, in their order */
    public function listings(): array
    {
        return array_values(array_filter($this->sent, fn (OrderedContent $one): bool => ! in_array($one, $this->before, true)));
    }

    /** Of a step: what is read of a place before anything is changed there. */
    public function before(Place $place): OrderedContent
    {
        return $this->before[$place->key];
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
            $this->fill(Place::onDisk($disk, $one));
        }
    }

    /** Its parts say what it is by now: it is looked for on them alone, and its volumes are filled. */
    private function group(PlannedGroup $group): void
    {
        $this->activate($group);
        foreach ($group->volumes as $volume) {
            $this->fill(Place::inGroup($group, $volume));
        }
    }

    private function activate(PlannedGroup $group): void
    {
        $parts = array_map(fn (GroupPart $one): string => "{$one->disk->onto->name}:{$one->partition->was->number}", $group->parts);
        $this->lines[] = "group {$group->was->name} ".implode(',', $parts);
    }

    private function change(Place $place): void
    {
        $of = $place->content;
        if (! $of->kind->isFilled() && $of->kind !== ContentKind::Image) {
            return; // swap, a part of a group, or nothing: it is as it was made
        }
        $this->readBack($place);
        $this->before[$place->key] = $this->sent[array_key_last($this->sent)];
        if ($of->kind->isFilled()) {
            $type = strtolower($of->type);
            $this->lines[] = "less {$place->node} $type ".$this->bring(OrderedContent::LESS, $place);
            $this->lines[] = "more {$place->node} $type ".$this->bring(OrderedContent::MORE, $place);
        } else {
            $this->fill($place);
        }
    }

    private function fill(Place $place): void
    {
        $of = $place->content;
        $order = match ($of->kind) {
            ContentKind::Image => "image {$place->node} ".$this->bring(OrderedContent::IMAGE, $place),
            ContentKind::Group => "image {$place->node} ".$this->bring(OrderedContent::HEAD, $place),
            ContentKind::Swap => "swap {$place->node} ".($of->uuid === '' ? '-' : $of->uuid).' '.self::hex($of->label),
            ContentKind::Ext => "ext {$place->node} ".$this->bring(OrderedContent::FILES, $place).' '.self::ext($place),
            ContentKind::Xfs => "xfs {$place->node} ".$this->bring(OrderedContent::FILES, $place).' '.self::xfs($of),
            ContentKind::Blank => null,
        };
        $order === null || $this->lines[] = $order;
    }

    /** TYPE UUID BLOCK INODE INODES FEATURES LABEL: as mke2fs(8) takes them. */
    private static function ext(Place $place): string
    {
        $of = $place->content;
        $usual = intdiv($place->bytes, self::BYTES_PER_INODE);
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

    private function readBack(Place $place): void
    {
        $of = $place->content;
        if ($of->kind->isFilled()) {
            $this->lines[] = "list {$place->node} ".$this->send(OrderedContent::FILES, $place).' '.strtolower($of->type);
        } elseif ($of->kind === ContentKind::Image) {
            $this->lines[] = "sum {$place->node} ".$this->send(OrderedContent::IMAGE, $place)." {$place->was}";
        } elseif ($of->kind === ContentKind::Group) {
            $this->lines[] = "sum {$place->node} ".$this->send(OrderedContent::HEAD, $place).' '.PlannedGroup::HEAD;
        }
    }

    private function fetch(string $kind, PlannedDisk $disk): int
    {
        $this->fetched[] = OrderedContent::ofDisk(count($this->fetched), $kind, $disk);

        return count($this->fetched) - 1;
    }

    private function bring(string $kind, Place $place): int
    {
        $this->fetched[] = OrderedContent::at(count($this->fetched), $kind, $place);

        return count($this->fetched) - 1;
    }

    private function send(string $kind, Place $place): int
    {
        $this->sent[] = OrderedContent::at(count($this->sent), $kind, $place);

        return count($this->sent) - 1;
    }

    private static function hex(string $label): string
    {
        return $label === '' ? '-' : bin2hex($label);
    }
}
