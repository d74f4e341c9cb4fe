<?php

declare(strict_types=1);

namespace App\View;

use App\Estate\Points;
use App\Models\BackupSet;
use Carbon\CarbonImmutable;
use Illuminate\Support\Collection;
use Kaiseki\Core\Chain\Chain;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\Level;

/** The geometry of the drawing of a workload's sets over time. Lengths are in the units of its view box. */
final class ChainChart
{
    public const WIDTH = 860;

    public const HEIGHT = 196;

    public const GROUND = 142;

    /** Never more posts than fit beside each other. */
    private const MOST_POSTS = 60;

    /** @var Collection<int, BackupSet> those that are drawn, oldest first */
    public readonly Collection $sets;

    public readonly CarbonImmutable $from;

    public readonly CarbonImmutable $to;

    /** @var array<string, true> names of the sets of the chosen chain */
    private array $own = [];

    /** @param  array<int, bool>  $proven set ids */
    public function __construct(private readonly Points $points, private readonly ?BackupSet $point, public readonly CarbonImmutable $wanted, public readonly int $days, private readonly string $zone, private readonly array $proven)
    {
        $newest = $points->sets->isEmpty() ? $wanted : $points->sets->last()->captured_at;
        // The wanted moment stands in the middle, but for where nothing would be drawn on the right.
        $to = $wanted->addHours($days * 12);
        $this->to = $to->isAfter($newest->addHours($days * 2)) ? max($newest, $wanted)->addHours($days * 2) : $to;
        $this->from = $this->to->subDays($days);
        $chain = $point === null ? null : $points->graph->chainOf($point->name);
        foreach ($chain instanceof Chain ? $chain->sets : [] as $set) {
            $this->own[$set->id] = true;
        }
        $this->sets = $this->thinned($points->sets->filter(fn (BackupSet $set): bool => $set->captured_at->between($this->from, $this->to))->values());
    }

    public function isOwn(BackupSet $set): bool
    {
        return isset($this->own[$set->name]);
    }

    public function isChosen(BackupSet $set): bool
    {
        return $set->id === $this->point?->id;
    }

    public function x(CarbonImmutable $moment): float
    {
        $span = $this->to->getTimestamp() - $this->from->getTimestamp();

        return round(26 + ($moment->getTimestamp() - $this->from->getTimestamp()) / $span * (self::WIDTH - 52), 1);
    }

    /** Tall for a full, middling for a differential, short for an increment. */
    public function tall(BackupSet $set): int
    {
        $level = Level::of($set->level);

        return match (true) {
            $level->isFull() => 96, $level->name === 'diff' => 62, $level->dumpLevel() !== null => max(24, 70 - 5 * (int) $level->dumpLevel()), default => 30,
        };
    }

    public function wide(): float
    {
        return max(3.0, min(12.0, (self::WIDTH - 60) / max(1, $this->days) * 0.45));
    }

    /** @return list<array{y: float, height: float, gone: bool, title: string}> one for each copy, from the ground up */
    public function segments(BackupSet $set): array
    {
        $count = max(1, $set->copies->count());
        $height = ($this->tall($set) - 2 * ($count - 1)) / $count;
        $segments = [];
        foreach ($set->copies->values() as $i => $copy) {
            $state = $this->points->state($copy);
            $segments[] = ['y' => round(self::GROUND - 2 - ($i + 1) * $height - $i * 2, 1), 'height' => round($height, 1), 'gone' => ! $state->isReadable(), 'title' => "{$copy->store->name}: ".self::stateWords($state)];
        }

        return $segments === [] ? [['y' => self::GROUND - 2 - $height, 'height' => $height, 'gone' => true, 'title' => 'no copy']] : $segments;
    }

    /** @return list<array{path: string, own: bool}> from each post to its base */
    public function rails(): array
    {
        $rails = [];
        foreach ($this->sets as $set) {
            $base = $set->base_id === null ? null : $this->points->sets[$set->base_id] ?? null;
            if ($base === null || $base->captured_at->isBefore($this->from)) {
                continue;
            }
            [$from, $to] = [$this->x($base->captured_at), $this->x($set->captured_at)];
            $deep = self::GROUND + ($set->level === 'diff' ? 18 : 9);
            $bend = min(8.0, ($to - $from) / 2);
            $rails[] = ['path' => sprintf('M%1$.1f %2$d C%1$.1f %3$d %1$.1f %3$d %4$.1f %3$d H%5$.1f C%6$.1f %3$d %6$.1f %3$d %6$.1f %2$d', $from, self::GROUND + 1, $deep, $from + $bend, $to - $bend, $to), 'own' => $this->isOwn($set) && $this->isOwn($base)];
        }
        usort($rails, fn (array $a, array $b): int => $a['own'] <=> $b['own']);

        return $rails;
    }

    /** @return list<array{x: float, text: string}> */
    public function days(): array
    {
        $every = max(1, (int) ceil($this->days / 14));
        $labels = [];
        for ($day = $this->from->setTimezone($this->zone)->startOfDay()->addDay(), $i = 0; $day->isBefore($this->to); $day = $day->addDay(), $i++) {
            if ($i % $every === 0) {
                $labels[] = ['x' => $this->x($day->addHours(2)->utc()), 'text' => $this->days > 60 ? $day->format('j M y') : $day->format('D j').($day->day <= $every ? $day->format(' M') : '')];
            }
        }

        return $labels;
    }

    /** proven, checked or not. */
    public function mark(BackupSet $set): string
    {
        return match (true) {
            isset($this->proven[$set->id]) => 'proven',
            $set->copies->contains(fn ($copy): bool => $this->points->state($copy) === CopyState::Checked) => 'checked',
            default => '',
        };
    }

    public function stateOf(BackupSet $set): string
    {
        $usable = $this->points->usable($set);

        return match (true) {
            $usable === 'no' => 'lost', $usable === 'part' => 'in part', $this->mark($set) !== '' => $this->mark($set), default => 'not checked',
        };
    }

    public static function stateWords(CopyState $state): string
    {
        return match ($state) {
            CopyState::Ok => 'there', CopyState::Checked => 'checked', CopyState::Offline => 'on the shelf', CopyState::Missing => 'missing', CopyState::Damaged => 'damaged',
        };
    }

    /**
     * By day, week or month, keeping what matters most of each: the chosen chain, then fulls.
     *
     * @param  Collection<int, BackupSet>  $sets
     * @return Collection<int, BackupSet>
     */
    private function thinned(Collection $sets): Collection
    {
        if ($sets->count() <= self::MOST_POSTS) {
            return $sets;
        }
        $kept = $sets;
        foreach (['Y-m-d', 'o-W', 'Y-m', 'Y'] as $by) {
            $kept = $sets->groupBy(fn (BackupSet $set): string => $set->captured_at->format($by))
                ->flatMap(fn (Collection $of): array => [...$of->filter($this->isOwn(...)), $of->sortByDesc($this->tall(...))->first()])->unique('id')->sortBy('instant')->values();
            if ($kept->count() <= self::MOST_POSTS) {
                break;
            }
        }

        return $kept;
    }
}
