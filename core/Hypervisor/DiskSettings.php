<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** A disk of a machine, as it is configured. */
final readonly class DiskSettings
{
    /** 256 TiB. */
    public const LARGEST = 1 << 48;

    private const NAME = '/^[A-Za-z0-9][A-Za-z0-9_-]{0,39}$/D';

    /**
     * @param  int  $size  bytes; whole sectors of 512
     *
     * @throws UnfitSettings
     */
    public function __construct(public string $name, public int $size, public Bus $bus = Bus::Virtio)
    {
        preg_match(self::NAME, $name) === 1 ||
            throw UnfitSettings::because("a disk's name has letters, digits, dashes and underscores, at most 40: ".mb_scrub($name));
        ($size > 0 && $size % 512 === 0 && $size <= self::LARGEST) ||
            throw UnfitSettings::because("the disk $name would have $size bytes: a disk has whole sectors of 512, up to 256 TiB");
    }

    /** @return array{name: string, size: int, bus: string} */
    public function toArray(): array
    {
        return ['name' => $this->name, 'size' => $this->size, 'bus' => $this->bus->value];
    }

    /** @param  array<mixed>  $told */
    public static function fromArray(array $told): self
    {
        return new self(
            Told::text($told, 'name'),
            Told::number($told, 'size'),
            Bus::tryFrom(Told::text($told, 'bus')) ?? throw UnfitSettings::because('there is no bus '.Told::text($told, 'bus')),
        );
    }
}
