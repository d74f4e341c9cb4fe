<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** What comes onto one disk of the machine. */
final readonly class PlannedDisk
{
    /** @param  list<PlannedPartition>  $partitions  in the order in which they lie */
    public function __construct(public RecordedDisk $was, public TargetDisk $onto, public array $partitions)
    {
    }

    /** Bytes behind the first sector, before the first partition as it was and as it will be, in which a loader may lie; 0 for none. */
    public function gap(): int
    {
        $starts = [$this->was->partitions[0]->start ?? 0, $this->partitions[0]->start ?? 0, MetalOrders::GAP];

        return $this->was->table === 'dos' ? max(0, min($starts) - 512) : 0;
    }

    /** The script by which sfdisk(8) writes its table; '' where it has none. */
    public function script(): string
    {
        if ($this->was->table === '') {
            return '';
        }
        $sector = $this->onto->sector;
        $lines = ["label: {$this->was->table}", ...$this->was->id === '' ? [] : ["label-id: {$this->was->id}"], 'unit: sectors'];
        if ($this->was->table === 'gpt') {
            $lines[] = 'first-lba: '.(2 + intdiv(LayoutProposal::ENTRIES + $sector - 1, $sector)); // it would begin at 1 MiB by itself
        }
        foreach ($this->numbered() as [$number, $type, $start, $bytes, $was]) {
            $fields = ['start='.intdiv($start, $sector), 'size='.intdiv($bytes, $sector), "type=$type"];
            if ($was !== null && $this->was->table === 'gpt') {
                $fields[] = "uuid={$was->uuid}";
                // Quoted, and without what would end the quotes: the script has no way to write that.
                $fields[] = 'name="'.str_replace(['"', '\\'], "'", $was->name).'"';
                $attributes = self::attributes($was->flags);
                $attributes === '' || $fields[] = "attrs=\"$attributes\"";
            } elseif ($was !== null && ($was->flags & 0x80) !== 0) {
                $fields[] = 'bootable';
            }
            $lines[] = "$number : ".implode(', ', $fields);
        }

        return implode("\n", $lines)."\n";
    }

    /** @return list<array{int, string, int, int, RecordedPartition|null}> number, type, start, bytes; and null for what holds others */
    private function numbered(): array
    {
        $lines = [];
        $logical = array_values(array_filter($this->partitions, fn (PlannedPartition $one): bool => $this->was->isLogical($one->was)));
        foreach ($this->partitions as $one) {
            $lines[] = [$one->was->number, $one->was->type, $one->start, $one->bytes, $one->was];
        }
        if ($logical !== []) {
            $from = $logical[0]->start - LayoutProposal::GRAIN;
            $taken = array_column($lines, 0);
            $number = array_values(array_diff([4, 3, 2, 1], $taken))[0];
            $lines[] = [$number, '5', $from, end($logical)->end() - $from, null];
        }
        usort($lines, fn (array $a, array $b): int => $a[0] <=> $b[0]);

        return $lines;
    }

    /** The bits of an entry as sfdisk(8) names them: the first three, and those above 47, which belong to the type. */
    private static function attributes(int $flags): string
    {
        $names = [0 => 'RequiredPartition', 1 => 'NoBlockIOProtocol', 2 => 'LegacyBIOSBootable'];
        $found = array_values(array_filter($names, fn (int $bit): bool => ($flags >> $bit & 1) === 1, ARRAY_FILTER_USE_KEY));
        for ($bit = 48; $bit < 64; $bit++) {
            ($flags >> $bit & 1) === 1 && $found[] = "GUID:$bit";
        }

        return implode(',', $found);
    }
}
