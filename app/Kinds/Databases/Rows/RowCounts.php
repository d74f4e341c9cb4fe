<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

/** How many rows are to become what, or stay. */
final readonly class RowCounts
{
    /**
     * @param  int  $same  are right already
     * @param  int  $left  that the transaction added, and that stay
     * @param  int  $conflicts  that somebody changed since, and that stay
     */
    public function __construct(
        public int $insert = 0,
        public int $setBack = 0,
        public int $remove = 0,
        public int $same = 0,
        public int $left = 0,
        public int $conflicts = 0,
    ) {
    }

    /** @param  array<string, int>  $counts  RowDecision's verdicts => rows; each verdict that is not one of the five here is a conflict */
    public static function byVerdict(array $counts): self
    {
        $of = fn (string $verdict): int => $counts[$verdict] ?? 0;
        $known = [$of('insert'), $of('set back'), $of('remove'), $of('same'), $of('left')];

        return new self(...[...$known, array_sum($counts) - array_sum($known)]);
    }

    public function plus(self $other): self
    {
        return new self(
            $this->insert + $other->insert,
            $this->setBack + $other->setBack,
            $this->remove + $other->remove,
            $this->same + $other->same,
            $this->left + $other->left,
            $this->conflicts + $other->conflicts,
        );
    }

    /** @param  array<string, mixed>  $kept */
    public static function fromArray(array $kept): self
    {
        $of = fn (string $field): int => (int) ($kept[$field] ?? 0);

        return new self($of('insert'), $of('set_back'), $of('remove'), $of('same'), $of('left'), $of('conflicts'));
    }

    /** @return array{insert: int, set_back: int, remove: int, same: int, left: int, conflicts: int} as outcomes and documents have it */
    public function toArray(): array
    {
        return [
            'insert' => $this->insert,
            'set_back' => $this->setBack,
            'remove' => $this->remove,
            'same' => $this->same,
            'left' => $this->left,
            'conflicts' => $this->conflicts,
        ];
    }
}
