<?php

declare(strict_types=1);

namespace App\Trees\Intake;

use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Protect\Exclusions;

/** An archive that was found or made, with what is recorded of it. */
final readonly class FoundSet
{
    public function __construct(
        /** Below the root of the store. */
        public string $path,
        public string $name,
        public Level $level,
        public Instant $capturedAt,
        /** The name of the set it was made against, where that is recorded. */
        public ?string $base,
        public string $history = '1',
        public ?Instant $capturedFrom = null,
        /** application, crash, none or unknown */
        public string $consistency = 'unknown',
        /** @var list<string> */
        public array $remarks = [],
        /** Made just now: what lies beside it need not be compared with it. */
        public bool $isFresh = false,
        /** Whether access lists were asked for when it was made, so that what has none in it had none. */
        public bool $knowsLists = false,
        /** What it left out on purpose. */
        public Exclusions $excluded = new Exclusions,
    ) {
    }

    public function with(string $remark): self
    {
        return new self(...['remarks' => [...$this->remarks, $remark]] + get_object_vars($this));
    }
}
