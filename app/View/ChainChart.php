<?php

declare(strict_types=1);

namespace App\View;

use App\Care\Holds;
use App\Sets\CopyOutline;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Words;
use Carbon\CarbonImmutable;
use Kaiseki\Core\Chain\Chain;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Instant;

/** The geometry of the drawing of a workload's sets over time. Lengths are in the units of its view box. */
final class ChainChart
{
    public const WIDTH = 860;

    public const HEIGHT = 190;

    public const GROUND = 138;

    /** Room at the left and the right of the ground. */
    public const MARGIN = 26;

    /** Never more posts than this; where more sets would stand, one stands for several. */
    public const MOST_POSTS = 240;

    /** Posts that mostly stand closer than this are drawn as one. */
    private const LEAST_GAP = 4.0;

    /** @var list<ChartPost> oldest first */
    public readonly array $posts;

    public readonly CarbonImmutable $from;

    public readonly CarbonImmutable $to;

    /** How many sets lie in the span and pass the filters. */
    public readonly int $found;

    /** @var array<int, string>|null */
    private ?array $holds = null;

    /** @var array<string, true> names of the sets of the chosen chain */
    private array $own = [];

    /** @var array<int, ChartPost> set id => post */
    private array $drawn = [];

    /** @param  array<int, bool>  $proven set ids */
    public function __construct(
        private readonly Points $points,
        private readonly ?SetOutline $point,
        public readonly CarbonImmutable $wanted,
        public readonly ChartWindow $window,
        private readonly string $zone,
        private readonly array $proven,
    ) {
        $half = (int) round($window->days * 43200);
        $newest = $points->newest()?->capturedAt() ?? $wanted;
        // The wanted moment stands in the middle, but for where nothing would be drawn on the right.
        $latest = max($newest, $wanted)->getTimestamp() + intdiv($half, 6);
        $end = $window->middle === null ? min($wanted->getTimestamp() + $half, $latest) : $window->middle->getTimestamp() + $half;
        $this->to = CarbonImmutable::createFromTimestampUTC($end);
        $this->from = CarbonImmutable::createFromTimestampUTC($end - 2 * $half);
        $chain = $point === null ? null : $points->graph->chainOf($point->name);
        foreach ($chain instanceof Chain ? $chain->sets : [] as $set) {
            $this->own[$set->id] = true;
        }
        $sets = $this->inWindow();
        $this->found = count($sets);
        $this->posts = $this->fit($sets)
            ? array_map(fn (SetOutline $set): ChartPost => $this->post([$set], $set), $sets)
            : $this->thinned($sets);
        foreach ($this->posts as $post) {
            $this->drawn[$post->set->id] = $post;
        }
    }

    public function isOwn(SetOutline $set): bool
    {
        return isset($this->own[$set->name]);
    }

    public function isChosen(SetOutline $set): bool
    {
        return $set->id === $this->point?->id;
    }

    public function middle(): int
    {
        return intdiv($this->from->getTimestamp() + $this->to->getTimestamp(), 2);
    }

    /** @return list<string> names of the levels that the workload has, the fullest first */
    public function levels(): array
    {
        $tall = [];
        foreach ($this->points->sets as $set) {
            $tall[$set->level->name] ??= $this->tall($set);
        }
        arsort($tall);

        return array_map(strval(...), array_keys($tall));
    }

    public function x(CarbonImmutable|int $moment): float
    {
        $seconds = is_int($moment) ? $moment / 1e6 : $moment->getTimestamp();
        $span = $this->to->getTimestamp() - $this->from->getTimestamp();

        return round(self::MARGIN + (($seconds - $this->from->getTimestamp()) / $span) * (self::WIDTH - 2 * self::MARGIN), 1);
    }

    /** Whether the wanted moment lies in what is shown. */
    public function showsWanted(): bool
    {
        return $this->wanted->between($this->from, $this->to);
    }

    /** Tall for a full, middling for a differential, short for an increment; a log lies on the ground. */
    public function tall(SetOutline $set): int
    {
        $level = $set->level;

        return match (true) {
            $level->isFull() => 96,
            $level->name === 'diff' => 62,
            $level->isLog() => 5,
            $level->isSnapshot() => 20,
            $level->dumpLevel() !== null => max(24, 76 - 6 * (int) $level->dumpLevel()),
            default => 30,
        };
    }

    public function wide(): float
    {
        $gaps = [];
        foreach ($this->posts as $i => $post) {
            if ($i > 0) {
                $gaps[] = $post->x - $this->posts[$i - 1]->x;
            }
        }
        sort($gaps);

        return round(max(2.0, min(12.0, ($gaps[intdiv(count($gaps), 2)] ?? 30.0) * 0.55)), 1);
    }

    /** What lies between a point and the wanted moment, which no restore of that point brings back. */
    public function loss(CarbonImmutable $from): ChartSpan
    {
        $x = max(self::MARGIN, $this->x($from));

        return new ChartSpan($x, max(0.0, min(self::WIDTH - self::MARGIN, $this->x($this->wanted)) - $x));
    }

    /** Where on the ground a log lies, from the state it goes on from to its own instant; null of what is no log. */
    public function ribbon(ChartPost $post): ?ChartSpan
    {
        if (! $post->set->level->isLog()) {
            return null;
        }
        $base = $this->points->sets[$post->set->base ?? 0] ?? null;
        $from = max((float) self::MARGIN, $base === null ? $post->x - 2 : $this->x($base->instant));

        return new ChartSpan($from, round(max(2.0, $post->x - $from), 1));
    }

    /** @return list<ChartSegment> one for each copy, from the ground up */
    public function segments(SetOutline $set): array
    {
        $count = max(1, count($set->copiesByStore()));
        $height = max(1.0, ($this->tall($set) - 2 * ($count - 1)) / $count);
        $segments = [];
        foreach ($set->copiesByStore() as $i => $copy) {
            $segments[] = new ChartSegment(
                round(self::GROUND - 2 - ($i + 1) * $height - $i * 2, 1),
                round($height, 1),
                ! $copy->state->isReadable(),
                "{$copy->store->name}: ".self::stateWords($copy->state),
            );
        }

        return $segments === [] ? [new ChartSegment(self::GROUND - 2 - $height, $height, true, 'no copy')] : $segments;
    }

    /** @return list<ChartRail> from each post to its base; those of the chain in hand last, so that they lie on top */
    public function rails(): array
    {
        $rails = [];
        foreach ($this->posts as $post) {
            $base = $this->drawn[$post->set->base ?? 0] ?? null;
            if ($base === null || $post->set->level->isLog()) {
                continue;
            }
            $deep = self::GROUND + ($post->set->level->name === 'diff' ? 18 : 9);
            $bend = min(8.0, ($post->x - $base->x) / 2);
            $rails[] = new ChartRail(
                sprintf(
                    'M%1$.1f %2$d C%1$.1f %3$d %1$.1f %3$d %4$.1f %3$d H%5$.1f C%6$.1f %3$d %6$.1f %3$d %6$.1f %2$d',
                    $base->x,
                    self::GROUND + 1,
                    $deep,
                    $base->x + $bend,
                    $post->x - $bend,
                    $post->x,
                ),
                $this->isOwn($post->set) && $this->isOwn($base->set),
                $this->points->brokenChain($post->set) !== null,
            );
        }
        usort($rails, fn (ChartRail $a, ChartRail $b): int => $a->isOwn <=> $b->isOwn);

        return $rails;
    }

    /** @return list<float> where a new history begins, since the source was rebuilt */
    public function newHistories(): array
    {
        $known = [];
        $at = [];
        foreach ($this->points->sets as $set) {
            if (! isset($known[$set->history])) {
                $x = $this->x($set->instant) - $this->wide() / 2 - 5;
                if ($known !== [] && $x > self::MARGIN && $x < self::WIDTH - self::MARGIN) {
                    $at[] = $x;
                }
                $known[$set->history] = true;
            }
        }

        return $at;
    }

    /** @return list<ChartLabel> along the ground, at round moments of the zone */
    public function labels(): array
    {
        $labels = [];
        foreach ((new TimeScale($this->from, $this->to, $this->zone))->labels() as [$moment, $text]) {
            $x = $this->x($moment);
            if ($x >= self::MARGIN + 4 && $x <= self::WIDTH - self::MARGIN - 4) {
                $labels[] = new ChartLabel($x, $text);
            }
        }

        return $labels;
    }

    /** proven, checked or not. */
    public function mark(SetOutline $set): string
    {
        return isset($this->proven[$set->id]) ? 'proven' : ($set->isChecked() ? 'checked' : '');
    }

    public function stateOf(SetOutline $set): string
    {
        $usable = $this->points->usable($set);
        $mark = $this->mark($set);

        return match (true) {
            $usable === 'no' => 'lost',
            $usable === 'part' => 'in part',
            $mark !== '' => $mark,
            default => 'not checked',
        };
    }

    /** What is to be said of it beyond its state; '' for nothing. */
    public function remark(SetOutline $set): string
    {
        $held = $this->holds()[$set->id] ?? null;

        return implode(
            '; ',
            array_filter([
                $set->set->inDoubt ? 'in doubt'.($set->doubtful > 0 ? ': '.Words::count($set->doubtful, 'file') : '') : '',
                $this->remarkOnContent($set),
                $held === null ? '' : "held: $held",
            ]),
        );
    }

    public function isHeld(SetOutline $set): bool
    {
        return isset($this->holds()[$set->id]);
    }

    /** @return array<int, string> set id => why */
    private function holds(): array
    {
        return $this->holds ??= (new Holds)->ofWorkload($this->points->workload);
    }

    private function remarkOnContent(SetOutline $set): string
    {
        $because = $this->points->because($set);
        if ($because !== null) {
            return $because;
        }
        $bridged = $this->points->bridged($set);
        if ($bridged !== null) {
            return $bridged->id === $set->id
                ? 'no copy of it can be read, but other sets hold all of it'
                : "{$bridged->level->words()} of ".
                        Words::moment($bridged->capturedAt(), $this->zone, false).
                        ' cannot be read; other sets go round it';
        }

        return $this->points->graph->restsOnAssumed($set->name) ? 'base assumed' : '';
    }

    /** Where a copy lies: the store, the cartridges, and whether they must be fetched. */
    public function copyWords(CopyOutline $copy): string
    {
        return $copy->store->name.
            ($copy->media() === [] ? '' : ' '.implode('+', $copy->media())).
            ($copy->state === CopyState::Offline ? ' (shelf)' : '');
    }

    public static function stateWords(CopyState $state): string
    {
        return match ($state) {
            CopyState::Ok => 'there',
            CopyState::Checked => 'checked',
            CopyState::Offline => 'on the shelf',
            CopyState::Missing => 'missing',
            CopyState::Damaged => 'damaged',
        };
    }

    /** @return list<SetOutline> */
    private function inWindow(): array
    {
        [$from, $to] = [$this->from->getTimestamp() * 1_000_000, $this->to->getTimestamp() * 1_000_000];
        $sets = [];
        $all = $this->window->levels === [] && $this->window->state === '';
        foreach ($this->points->sets as $set) {
            if (
                $set->instant >= $from &&
                $set->instant <= $to &&
                ($all || $this->isChosen($set) || ($this->window->shows($set->level->name) && $this->isInState($set)))
            ) {
                $sets[] = $set;
            }
        }

        return $sets;
    }

    private function isInState(SetOutline $set): bool
    {
        return match ($this->window->state) {
            'whole' => $this->points->usable($set) === 'whole',
            'hurt' => $this->points->usable($set) !== 'whole',
            'doubt' => $set->set->inDoubt,
            'checked' => $set->isChecked(),
            'proven' => isset($this->proven[$set->id]),
            default => true,
        };
    }

    /**
     * Whether they can stand side by side.
     *
     * @param  list<SetOutline>  $sets
     */
    private function fit(array $sets): bool
    {
        if (count($sets) < 3 || count($sets) > self::MOST_POSTS) {
            return count($sets) < 3;
        }
        $gaps = [];
        for ($i = 1; $i < count($sets); $i++) {
            $gaps[] = $sets[$i]->instant - $sets[$i - 1]->instant;
        }
        sort($gaps);

        return ($gaps[intdiv(count($gaps), 2)] / 1e6) * $this->unitsPerSecond() >= self::LEAST_GAP;
    }

    private function unitsPerSecond(): float
    {
        return (self::WIDTH - 2 * self::MARGIN) / ($this->to->getTimestamp() - $this->from->getTimestamp());
    }

    /**
     * One post for each hour, day, week, month or year, that of the set that matters most; the chosen point and the full
     * beneath it always have their own.
     *
     * @param  list<SetOutline>  $sets
     * @return list<ChartPost>
     */
    private function thinned(array $sets): array
    {
        $offset = $this->from->setTimezone($this->zone)->getOffset();
        foreach ([3600, 6 * 3600, 86400, 7 * 86400, 'Y-m', 'Y'] as $by) {
            $groups = [];
            foreach ($sets as $set) {
                $local = intdiv($set->instant, 1_000_000) + $offset;
                // 1970 began on a Thursday; weeks begin on Mondays.
                $groups[is_int($by) ? intdiv($local + ($by > 86400 ? 3 * 86400 : 0), $by) : gmdate($by, $local)][] = $set;
            }
            $seconds = is_int($by) ? $by : ($by === 'Y' ? 366 : 28) * 86400;
            if ((count($groups) <= self::MOST_POSTS && $seconds * $this->unitsPerSecond() >= self::LEAST_GAP) || $by === 'Y') {
                break;
            }
        }
        $posts = $weights = [];
        foreach ($groups as $group) {
            [$best, $most] = [$group[0], -1];
            foreach ($group as $set) {
                $weight =
                    ($weights[$set->level->name] ??= $this->tall($set)) + (isset($this->own[$set->name]) ? $this->weightOfOwn($set) : 0);
                if ($weight > $most) {
                    [$best, $most] = [$set, $weight];
                }
            }
            $posts[] = $this->post($group, $best);
        }

        return $posts;
    }

    /** The chosen point before the full that it rests on, and that before the rest of the chain. */
    private function weightOfOwn(SetOutline $set): int
    {
        return $this->isChosen($set) ? 4000 : ($set->level->isFull() ? 2000 : 1000);
    }

    /** @param  non-empty-list<SetOutline>  $group */
    private function post(array $group, SetOutline $set): ChartPost
    {
        $hurt = 0;
        foreach ($this->points->judge->hurt() === 0 ? [] : $group as $one) {
            $hurt += $this->points->judge->usability($one)->isWhole() ? 0 : 1;
        }

        $moment = Instant::ofMicroseconds($set->instant)->in();

        return new ChartPost(
            $set,
            $this->x($set->instant),
            Words::moment($moment, $this->zone),
            $moment->format('Y-m-d\TH:i:s\Z'),
            count($group),
            $hurt,
            $group[0]->instant,
            $group[count($group) - 1]->instant,
        );
    }
}
