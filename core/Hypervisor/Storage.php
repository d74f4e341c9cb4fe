<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** A storage of a hypervisor: where disks of its machines lie. Bytes. */
final readonly class Storage
{
    public function __construct(public string $name, public int $size, public int $free)
    {
    }

    /** @return array{name: string, size: int, free: int} */
    public function toArray(): array
    {
        return ['name' => $this->name, 'size' => $this->size, 'free' => $this->free];
    }

    /** @param  array<mixed>  $told */
    public static function fromArray(array $told): self
    {
        return new self(Told::text($told, 'name'), Told::number($told, 'size'), Told::number($told, 'free'));
    }
}
