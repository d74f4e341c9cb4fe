<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** How far a disk that is read from elsewhere has come to the storage that it lies on. */
final readonly class Settling
{
    /**
     * @param  int  $done  bytes of the disk that were gone through
     * @param  bool  $isAtWork  whether it goes on
     * @param  string|null  $failure  why it does not
     */
    public function __construct(public int $done, public int $total, public bool $isAtWork, public ?string $failure = null)
    {
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['done' => $this->done, 'total' => $this->total, 'at_work' => $this->isAtWork, 'failure' => $this->failure];
    }

    /** @param  array<mixed>  $told */
    public static function fromArray(array $told): self
    {
        return new self(
            Told::number($told, 'done'),
            Told::number($told, 'total'),
            ($told['at_work'] ?? false) === true,
            isset($told['failure']) ? Told::text($told, 'failure') : null,
        );
    }
}
