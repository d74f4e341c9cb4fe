<?php

declare(strict_types=1);

namespace App\Sets;

use Carbon\CarbonImmutable;
use Kaiseki\Core\Chain\BackupSet;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Chain\SetCopy;

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
        /** Files at this point whose content is in doubt. */
        public int $doubtful = 0,
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

    /** Whether no copy is whole, but what is left of one is known. */
    public function isPartlyReadable(): bool
    {
        return ! $this->isReadable() && array_filter($this->copies, fn (CopyOutline $copy): bool => $copy->isPartlyReadable) !== [];
    }

    /** For a list of what is read: with what is left of damaged copies, where there is nothing better. */
    public function forReading(): BackupSet
    {
        if (! $this->isPartlyReadable()) {
            return $this->set;
        }
        $left = array_values(array_filter($this->copies, fn (CopyOutline $copy): bool => $copy->isPartlyReadable));

        return new BackupSet(
            $this->set->id, $this->set->level, $this->set->capturedAt, $this->set->bytes,
            array_map(fn (CopyOutline $copy): SetCopy => new SetCopy($copy->copy->store, CopyState::Ok, $copy->copy->media, $copy->copy->position), $left),
            $this->set->base, $this->set->history, $this->set->consistent, $this->set->inDoubt,
        );
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
