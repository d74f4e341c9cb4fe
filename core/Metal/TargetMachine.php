<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** A machine that the medium was started on, as the medium tells it. */
final readonly class TargetMachine
{
    public const LARGEST_DOCUMENT = 1 << 20;

    private const MOST_DISKS = 64;

    /**
     * @param  string  $firmware  bios or uefi
     * @param  int  $memory  KiB
     * @param  list<TargetDisk>  $disks
     * @param  list<string>  $cards  addresses of its network cards
     * @param  list<string>  $devices  on its PCI bus, as the kernel's modalias has them
     * @param  int  $version  of the medium: what it knows
     */
    public function __construct(
        public string $firmware,
        public string $product,
        public string $serial,
        public int $memory,
        public array $disks,
        public array $cards,
        public array $devices,
        public int $version = 1,
    ) {
    }

    public function disk(string $name): ?TargetDisk
    {
        foreach ($this->disks as $disk) {
            if ($disk->name === $name) {
                return $disk;
            }
        }

        return null;
    }

    /** @return list<TargetDisk> those that something could be brought to */
    public function open(): array
    {
        return array_values(array_filter($this->disks, fn (TargetDisk $disk): bool => ! $disk->isMedium && $disk->bytes > 0));
    }

    /** @throws UnfitLayout */
    public static function ofJson(string $json): self
    {
        return self::said(Said::ofJson($json, self::LARGEST_DOCUMENT));
    }

    /** @throws UnfitLayout */
    public static function said(Said $said): self
    {
        $disks = array_map(TargetDisk::said(...), $said->each('disks', self::MOST_DISKS));
        $names = array_map(fn (TargetDisk $disk): string => $disk->name, $disks);
        array_unique($names) === $names || throw UnfitLayout::at('disks', 'has two of one name.');

        return new self(
            $said->text('firmware', '/^(bios|uefi)$/D'),
            $said->words('product', 80),
            $said->words('serial', 80),
            $said->number('memory', 0, 1 << 40, 0),
            $disks,
            $said->texts('cards', '/^[0-9a-f]{2}(:[0-9a-f]{2}){5}$/D', 64),
            $said->texts('devices', '/^[\x21-\x7e]{1,200}$/D', 512),
            $said->number('version', 1, 1000, 1),
        );
    }

    /** @return array<string, mixed> as said() takes it */
    public function toArray(): array
    {
        return ['disks' => array_map(fn (TargetDisk $disk): array => $disk->toArray(), $this->disks)] + get_object_vars($this);
    }
}
