<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** A disk as it was: its table of partitions, and what lies on each. */
final readonly class RecordedDisk
{
    /** Bytes of a disk: an exbibyte, which a sum of some still holds. */
    public const LARGEST = 1 << 60;

    public const NAME = '/^[A-Za-z0-9][A-Za-z0-9._-]{0,59}$/D';

    /** A partition with the disk that it is of, or a disk without a table. */
    public const PART = '/^[A-Za-z0-9][A-Za-z0-9._-]{0,59}(\.[0-9]{1,4})?$/D';

    private const MOST_PARTITIONS = 256;

    /**
     * @param  string  $table  gpt, dos, or '' for none
     * @param  string  $id  what the table is called by: a GUID in capitals, or 0x1a2b3c4d; '' for none
     * @param  bool  $startsCode  whether its first sector has code to start by BIOS
     * @param  list<RecordedPartition>  $partitions  in the order in which they lie
     */
    public function __construct(
        public string $name,
        public int $bytes,
        public string $table,
        public string $id,
        public bool $startsCode,
        public array $partitions,
    ) {
    }

    /** Whether something could start from it: by code in its first sector, or from an EFI system partition. */
    public function mayStart(): bool
    {
        $types = array_map(fn (RecordedPartition $one): string => $one->type, $this->partitions);

        return $this->startsCode || array_intersect($types, RecordedPartition::EFI_SYSTEM) !== [];
    }

    /** A partition of it, as people and trees call it: "system.2", or "data" for a disk without a table. */
    public function key(RecordedPartition $one): string
    {
        return MachineRecord::key($this->name, $one->number);
    }

    /** The same with something else on one of its partitions. */
    public function with(string $key, Content $content): self
    {
        $partitions = array_map(
            fn (RecordedPartition $one): RecordedPartition => $this->key($one) === $key ? $one->with($content) : $one,
            $this->partitions,
        );

        return new self(...['partitions' => $partitions] + get_object_vars($this));
    }

    /** Whether a partition lies in another one, which holds nothing else. */
    public function isLogical(RecordedPartition $one): bool
    {
        return $this->table === 'dos' && $one->number > 4;
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        $partitions = array_map(fn (RecordedPartition $one): array => $one->toArray(), $this->partitions);

        return ['partitions' => $partitions] + get_object_vars($this);
    }

    /** @throws UnfitLayout */
    public static function said(Said $said): self
    {
        $name = $said->text('name', self::NAME);
        $bytes = $said->number('bytes', 1, self::LARGEST);
        $table = $said->text('table', '/^(gpt|dos|)$/D', '');
        $id = $said->text('id', match ($table) {
            'gpt' => RecordedPartition::GUID,
            'dos' => '/^0x[0-9a-f]{8}$/D',
            default => '/^$/D',
        }, '');
        $partitions = array_map(
            fn (Said $one): RecordedPartition => RecordedPartition::said($one, $table),
            $said->each('partitions', self::MOST_PARTITIONS),
        );
        usort($partitions, fn (RecordedPartition $a, RecordedPartition $b): int => $a->start <=> $b->start);
        $numbers = [];
        $end = 0;
        foreach ($partitions as $one) {
            if ($one->start < $end || $one->end() > $bytes || isset($numbers[$one->number])) {
                throw UnfitLayout::at("Partition {$one->number} of $name", 'lies over another one or behind the end of the disk.');
            }
            [$end, $numbers[$one->number]] = [$one->end(), true];
        }

        return new self($name, $bytes, $table, $id, $said->flag('startsCode'), $partitions);
    }
}
