<?php

declare(strict_types=1);

namespace App\Kinds\Files\Order;

use App\Models\BackupSet;
use App\Sets\Points;
use App\Trees\Run\PlannedOrder;
use App\Trees\Run\RestorePlan;
use Kaiseki\Core\Files\Deed;
use Kaiseki\Core\Files\DeedCount;
use Kaiseki\Core\Files\Preview;
use Kaiseki\Core\Files\PreviewLine;
use Kaiseki\Core\Files\UnableToRestore;

/** What a run of this order would do to its target as it is now, for a page: the counts, and some of the lines. */
final readonly class OrderPreview
{
    public const LINES = 200;

    private const HELD = 10_000;

    /** What changes nothing. */
    private const NOTHING = [Deed::Kept, Deed::LeftAlone];

    /** So much of what stands there is read, to tell what is the same. */
    private const DIGEST_BYTES = 64 << 20;

    private function __construct(
        /** @var array<string, DeedCount> by deed */
        public array $counts,
        /** @var list<PreviewLine> those that fit, from the first asked for on */
        public array $lines,
        /** How many fit. */
        public int $fitting,
        /** Things that stand where something comes back. */
        public int $present,
        /** Of these, how many changed later than what comes back. */
        public int $newer,
        /** How many would be replaced, or put beside, for their permissions alone. */
        public int $onlyPermissions,
        /** @var list<PreviewLine> what a program has open for writing, of what would be moved out of the way */
        public array $open,
        /** @var list<string> */
        public array $warnings,
        public int $bytesNeeded,
        public int $bytesSetAside,
        public int $bytesFree,
        public string $fingerprint,
    ) {
    }

    /**
     * @param  string  $filter  part of the path, in any case
     * @param  Deed|null  $only  null for all of them
     * @param  bool  $isFolded  whether what stays as it is is counted only
     *
     * @throws UnableToRestore if the host does not answer
     */
    public static function of(
        RestorePlan $plan,
        BackupSet $point,
        Points $points,
        string $filter = '',
        ?Deed $only = null,
        int $first = 0,
        bool $isFolded = false,
    ): self {
        $preview = PlannedOrder::preview($plan, $point, $points, self::DIGEST_BYTES);
        $lines = $open = [];
        $fitting = $newer = $onlyPermissions = 0;
        foreach (self::inOrder($preview->lines()) as $line) {
            $newer += $line->presentIsNewer ? 1 : 0;
            $onlyPermissions += in_array($line->because, Preview::ONLY_PERMISSIONS, true) ? 1 : 0;
            if ($line->openIn !== null && count($open) < 20) {
                $open[] = $line;
            }
            if ($isFolded && in_array($line->deed, self::NOTHING, true)) {
                continue;
            }
            if (($only !== null && $line->deed !== $only) || ($filter !== '' && mb_stripos(mb_scrub($line->path), $filter) === false)) {
                continue;
            }
            if ($fitting >= $first && count($lines) < self::LINES) {
                $lines[] = $line;
            }
            $fitting++;
        }

        return new self(
            $preview->counts(),
            $lines,
            $fitting,
            $preview->present(),
            $newer,
            $onlyPermissions,
            $open,
            $preview->warnings(),
            $preview->bytesNeeded(),
            $preview->bytesSetAside(),
            $preview->bytesFree(),
            $preview->fingerprint(),
        );
    }

    /**
     * What changes something comes first, as far as what does not can be held meanwhile.
     *
     * @param  iterable<PreviewLine>  $lines
     * @return iterable<PreviewLine>
     */
    private static function inOrder(iterable $lines): iterable
    {
        $others = [];
        foreach ($lines as $line) {
            if (! in_array($line->deed, self::NOTHING, true)) {
                yield $line;
            } elseif (count($others) < self::HELD) {
                $others[] = $line;
            } else {
                yield from $others;
                yield $line;
                $others = [];
            }
        }
        yield from $others;
    }

    /** How many things stay as they are. */
    public function untouched(): int
    {
        return array_sum(array_map(fn (Deed $deed): int => $this->counts[$deed->value]->entries ?? 0, self::NOTHING));
    }

    /** How many present things a run would move out of their place, or give other permissions. */
    public function changed(): int
    {
        return array_sum(array_map(fn (Deed $deed): int => $this->counts[$deed->value]->entries, Deed::OF_PRESENT));
    }

    public function fits(): bool
    {
        return $this->bytesFree >= $this->bytesNeeded;
    }
}
