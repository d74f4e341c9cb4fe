<?php

declare(strict_types=1);

namespace App\Estate;

use Carbon\CarbonImmutable;
use Kaiseki\Core\Chain\BackupSet;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\Level;

/** A set as lists, charts and plans need it: many thousands are held at once. */
final readonly class SetOutline
{
    public function __construct(
        public int $id,
        public string $name,
        public Level $level,
        /** Microseconds since 1970, the key in the catalog. */
        public int $instant,
        public int $history,
        /** The id of the set it was reckoned against, if that is here. */
        public ?int $base,
        public ?string $baseUnknownBecause,
        /** Of the archive. */
        public int $bytes,
        public int $treeFiles,
        /** whole, part or no */
        public string $cataloged,
        /** @var list<CopyOutline> */
        public array $copies,
        /** For the rules of the chain. */
        public BackupSet $set,
    ) {
    }

    public function capturedAt(): CarbonImmutable
    {
        return CarbonImmutable::createFromTimestampUTC(intdiv($this->instant, 1_000_000));
    }

    public function isReadable(): bool
    {
        foreach ($this->copies as $copy) {
            if ($copy->state->isReadable()) {
                return true;
            }
        }

        return false;
    }

    public function isChecked(): bool
    {
        foreach ($this->copies as $copy) {
            if ($copy->state === CopyState::Checked) {
                return true;
            }
        }

        return false;
    }
}
