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
        /** @var array<int, string> number => name of its parts; none for a set that is one file */
        public array $parts = [],
    ) {
    }

    public function capturedAt(): CarbonImmutable
    {
        return CarbonImmutable::createFromTimestampUTC(intdiv($this->instant, 1_000_000));
    }

    /** Whether each of its parts has a copy that can be read, wherever. */
    public function isReadable(): bool
    {
        return $this->unreadableParts() === [];
    }

    /** @return list<int> numbers of the parts without a copy that can be read */
    public function unreadableParts(): array
    {
        $readable = [];
        foreach ($this->copies as $copy) {
            if ($copy->state->isReadable()) {
                $readable[$copy->part] = true;
            }
        }

        return array_values(
            array_filter($this->parts === [] ? [0] : array_keys($this->parts), fn (int $part): bool => ! isset($readable[$part])),
        );
    }

    /** Why it cannot be read, in words that go on after its name; null if it can. */
    public function unreadable(): ?string
    {
        $parts = $this->unreadableParts();

        return match (true) {
            $parts === [] => null,
            $this->parts === [] || count($parts) === count($this->parts) => 'no copy of it can be read',
            default => 'no copy of its part '.
                implode(', ', array_map(fn (int $part): string => $this->parts[$part], $parts)).
                ' can be read',
        };
    }

    /**
     * What is read of it, part by part: for the choice of copies.
     *
     * @param  list<int>|null  $only  numbers of parts; null for all
     * @return list<array{BackupSet, int, int}> as a set with the copies of that part alone, its bytes, its number
     */
    public function pieces(?array $only = null): array
    {
        if ($this->parts === []) {
            return [[$this->set, $this->bytes, 0]];
        }
        $pieces = [];
        foreach ($only ?? array_keys($this->parts) as $part) {
            $copies = array_values(array_filter($this->copies, fn (CopyOutline $copy): bool => $copy->part === $part));
            $of = array_map(fn (CopyOutline $copy): SetCopy => $copy->copy, $copies);
            $pieces[] = [
                new BackupSet(
                    "{$this->set->id}#$part",
                    $this->set->level,
                    $this->set->capturedAt,
                    $copies[0]->bytes ?? 0,
                    $of,
                    $this->set->base,
                    $this->set->history,
                    $this->set->consistent,
                    $this->set->inDoubt,
                ),
                $copies[0]->bytes ?? 0,
                $part,
            ];
        }

        return $pieces;
    }

    /** @return list<CopyOutline> one for each store: of a set of several parts the one that is worst off there */
    public function copiesByStore(): array
    {
        $worst = [];
        foreach ($this->copies as $copy) {
            $known = $this->parts === [] ? null : $worst[$copy->store->id] ?? null;
            if ($known === null || ! $copy->state->isReadable()) {
                $worst[$this->parts === [] ? "copy {$copy->id}" : $copy->store->id] = $copy;
            }
        }

        return array_values($worst);
    }

    /** Whether a store alone gives all of it. */
    public function isReadableOn(string $store): bool
    {
        $readable = [];
        foreach ($this->copies as $copy) {
            if ($copy->store->name === $store && $copy->state->isReadable()) {
                $readable[$copy->part] = true;
            }
        }

        return count($readable) >= max(1, count($this->parts));
    }

    /** Whether it can be read, but from no store alone. */
    public function isScattered(): bool
    {
        if ($this->parts === [] || ! $this->isReadable()) {
            return false;
        }
        $stores = array_unique(array_map(fn (CopyOutline $copy): string => $copy->store->name, $this->copies));

        return array_filter($stores, $this->isReadableOn(...)) === [];
    }

    /** Whether no copy is whole, but what is left of one is known. */
    public function isPartlyReadable(): bool
    {
        return $this->parts === [] &&
            ! $this->isReadable() &&
            array_filter($this->copies, fn (CopyOutline $copy): bool => $copy->isPartlyReadable) !== [];
    }

    /** For a list of what is read: with what is left of damaged copies, where there is nothing better. */
    public function forReading(): BackupSet
    {
        if (! $this->isPartlyReadable()) {
            return $this->set;
        }
        $left = array_values(array_filter($this->copies, fn (CopyOutline $copy): bool => $copy->isPartlyReadable));

        return new BackupSet(
            $this->set->id,
            $this->set->level,
            $this->set->capturedAt,
            $this->set->bytes,
            array_map(
                fn (CopyOutline $copy): SetCopy => new SetCopy(
                    $copy->copy->store,
                    CopyState::Ok,
                    $copy->copy->media,
                    $copy->copy->position,
                ),
                $left,
            ),
            $this->set->base,
            $this->set->history,
            $this->set->consistent,
            $this->set->inDoubt,
        );
    }

    /** Whether each of its parts has a copy that was read back and found right. */
    public function isChecked(): bool
    {
        $checked = [];
        foreach ($this->copies as $copy) {
            if ($copy->state === CopyState::Checked) {
                $checked[$copy->part] = true;
            }
        }

        return count($checked) >= max(1, count($this->parts));
    }
}
