<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

/** How far a disk that is read from elsewhere has come to the storage that it lies on, or to another one. */
final readonly class Settling
{
    /**
     * @param  int  $done  bytes of the disk that were gone through
     * @param  bool  $isAtWork  whether it goes on
     * @param  string|null  $failure  why it does not
     * @param  bool  $isReady  whether all of it is at another storage, and what is written is written there as well
     */
    public function __construct(
        public int $done,
        public int $total,
        public bool $isAtWork,
        public ?string $failure = null,
        public bool $isReady = false,
    ) {
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'done' => $this->done,
            'total' => $this->total,
            'at_work' => $this->isAtWork,
            'failure' => $this->failure,
            'ready' => $this->isReady,
        ];
    }

    /** @param  array<mixed>  $told */
    public static function fromArray(array $told): self
    {
        return new self(
            Told::number($told, 'done'),
            Told::number($told, 'total'),
            ($told['at_work'] ?? false) === true,
            isset($told['failure']) ? Told::text($told, 'failure') : null,
            ($told['ready'] ?? false) === true,
        );
    }
}
