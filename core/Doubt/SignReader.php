<?php

declare(strict_types=1);

namespace Kaiseki\Core\Doubt;

use Kaiseki\Core\Catalog\Shown;

/**
 * Reads the signs of a set: what in it differs from what is usual for its workload and weekday, and what looks as damage
 * does. The bounds are common practice for watching backups; each is a constant here with what it means.
 */
final class SignReader
{
    /** No sign raises doubt before a workload has so many sets, this one included. */
    public const SETS_BEFORE_DOUBT = 7;

    /** Looked back at. */
    private const EARLIER = 28;

    /** So many sets of the same weekday are a usual of their own. */
    private const OF_WEEKDAY = 4;

    /** Deviations beyond which a figure is not as usual. */
    private const FAR = 6.0;

    /** Files that look scrambled: from so many on, or from so few if they are a good part of all that changed. */
    private const SUSPECTS = 5;

    private const SUSPECTS_IF_PART = 3;

    private const GOOD_PART = 0.3;

    /** Of a change of everything: share of the files, and how many at least. */
    private const MOST_CHANGED = 0.5;

    private const MANY = 20;

    /** @var list<SetFacts> */
    private readonly array $usual;

    /**
     * @param  list<SetFacts>  $earlier  of the workload's history, oldest first
     * @param  ChangeMeasures|null  $measures  null where only the figures are left
     */
    public function __construct(
        private readonly SetFacts $set,
        private readonly array $earlier,
        private readonly ?ChangeMeasures $measures = null,
    ) {
        $isSound = fn (SetFacts $facts): bool => ! $facts->doubted && $facts->figure('files_before') > 0;
        $sound = array_values(array_filter($earlier, $isSound));
        $same = array_values(array_filter($sound, fn (SetFacts $facts): bool => $facts->weekday === $set->weekday));
        $this->usual = array_slice(count($same) >= self::OF_WEEKDAY ? $same : $sound, -self::EARLIER);
    }

    /** @return list<Sign> those that raise doubt first */
    public function signs(): array
    {
        $signs = array_values(
            array_filter([
                $this->scrambled(),
                $this->replaced(),
                $this->emptied(),
                $this->changedMuch(),
                $this->fewer(),
                $this->moreFiles(),
                $this->archiveSize(),
                $this->tookLong(),
            ]),
        );
        usort($signs, fn (Sign $a, Sign $b): int => $b->doubts <=> $a->doubts);

        return $signs;
    }

    public function mayDoubt(): bool
    {
        return count($this->earlier) + 1 >= self::SETS_BEFORE_DOUBT;
    }

    private function scrambled(): ?Sign
    {
        $count = (int) ($this->set->figure('scrambled') + $this->set->figure('renamed'));
        if ($count === 0) {
            return null;
        }
        $all = max(1, (int) ($this->set->figure('changed') + $this->set->figure('added')));
        $usual = $this->usualOf('scrambled', 'renamed');
        $far = $usual === null || $usual->score($count, 1.0) > 3.0;
        $many = $count >= self::SUSPECTS || ($count >= self::SUSPECTS_IF_PART && $count / $all >= self::GOOD_PART);
        $contents = ($this->measures->scrambled ?? []) + ($this->measures->renamed ?? []);
        $endings = $this->measures->newEndings ?? [];

        return new Sign(
            'scrambled',
            $many && $far && $this->mayDoubt(),
            sprintf(
                '%s now %s evenly spread bytes (above %.1f bits of entropy a byte) or an ending not seen before%s, where there was '.
                    'ordinary content; usual is %s.%s',
                self::count($count, 'file'),
                $count === 1 ? 'has' : 'have',
                ContentTexture::HIGH,
                $endings === [] ? '' : ' ('.implode(', ', array_map(Shown::name(...), array_slice($endings, 0, 3))).')',
                self::usualWords($usual),
                self::example($contents),
            ),
            ['files' => $count, 'changed' => $all, 'usual' => $usual->median ?? 0],
            $contents + ($this->measures->newlyEven ?? []),
        ); // what came that night with even bytes was hardly spared
    }

    /** Files vanished, and as many new ones have even bytes that no format explains: scrambled under names of their own. */
    private function replaced(): ?Sign
    {
        $even = (int) $this->set->figure('newly_even');
        $removed = (int) $this->set->figure('removed');
        $before = max(1, (int) $this->set->figure('files_before'));
        $usual = $this->usualOf('newly_even');
        if (
            $even < 2 * self::SUSPECTS ||
            $removed < $even / 2 ||
            $removed / $before < 0.1 ||
            ($usual !== null && $usual->score($even, 2.0) <= self::FAR)
        ) {
            return null;
        }

        return new Sign(
            'replaced',
            $this->mayDoubt(),
            sprintf(
                '%s vanished, and %s came whose bytes are evenly spread though no known format explains that; usual is %s.%s',
                self::count($removed, 'file'),
                number_format($even),
                self::usualWords($usual),
                self::example($this->measures->newlyEven ?? []),
            ),
            ['files' => $even, 'removed' => $removed, 'usual' => $usual->median ?? 0],
            $this->measures->newlyEven ?? [],
        );
    }

    private function emptied(): ?Sign
    {
        $count = (int) $this->set->figure('emptied');
        if ($count === 0) {
            return null;
        }
        $usual = $this->usualOf('emptied');
        $doubts =
            $count >= self::SUSPECTS &&
            $count / max(1, $this->set->figure('changed')) >= self::GOOD_PART &&
            ($usual === null || $usual->score($count, 1.0) > self::FAR);

        return new Sign(
            'emptied',
            $doubts && $this->mayDoubt(),
            sprintf(
                '%s %s empty now; usual is %s.%s',
                self::count($count, 'file'),
                $count === 1 ? 'is' : 'are',
                self::usualWords($usual),
                self::example($this->measures->emptied ?? []),
            ),
            ['files' => $count, 'usual' => $usual->median ?? 0],
            $this->measures->emptied ?? [],
        );
    }

    private function changedMuch(): ?Sign
    {
        $share = (float) $this->set->figure('changed_share');
        $changed = (int) ($this->set->figure('changed') + $this->set->figure('renamed'));
        $usual = $this->usualOf('changed_share');
        if ($usual === null || $changed < self::MANY || $share < 0.2 || $usual->score($share, 0.02) <= self::FAR) {
            return null;
        }

        return new Sign(
            'changed',
            $share >= self::MOST_CHANGED && $this->mayDoubt(),
            sprintf(
                '%.0f %% of the files (%s of %s) have another content than in the set before; usual is %.1f %%.',
                100 * $share,
                number_format($changed),
                number_format($this->set->figure('files_before')),
                100 * $usual->median,
            ),
            ['share' => round($share, 4), 'usual' => round($usual->median, 4)],
            ($this->measures->changedContents ?? []) + ($this->measures->renamed ?? []),
        );
    }

    /** Entries that are missing: there is no content to doubt, so the doubt is about the set. */
    private function fewer(): ?Sign
    {
        $files = (int) $this->set->figure('files');
        $usual = $this->usualOf('files');
        if ($usual === null || $usual->median - $files < self::MANY || $usual->score($files, 0.02 * $usual->median) > -self::FAR) {
            return null;
        }

        return new Sign(
            'fewer',
            $files < 0.5 * $usual->median && $this->mayDoubt(),
            sprintf('It has %s; usual are %s.', self::count($files, 'file'), number_format($usual->median)),
            ['files' => $files, 'usual' => $usual->median, 'deviation' => round($usual->mad, 1)],
        );
    }

    private function moreFiles(): ?Sign
    {
        $files = (int) $this->set->figure('files');
        $usual = $this->usualOf('files');
        if ($usual === null || $files < 1.5 * $usual->median || $usual->score($files, 0.02 * $usual->median) <= self::FAR) {
            return null;
        }

        return new Sign('more', false, sprintf('It has %s; usual are %s.', self::count($files, 'file'), number_format($usual->median)), [
            'files' => $files,
            'usual' => $usual->median,
        ]);
    }

    private function archiveSize(): ?Sign
    {
        $same = array_values(array_filter($this->earlier, fn (SetFacts $facts): bool => $facts->level === $this->set->level));
        if (count($same) < self::OF_WEEKDAY) {
            return null;
        }
        $usual = Usual::of(array_map(fn (SetFacts $facts): int => $facts->bytes, array_slice($same, -self::EARLIER)));
        $score = $usual->score($this->set->bytes, 0.1 * $usual->median);
        if (abs($score) <= self::FAR || abs($this->set->bytes - $usual->median) < 1 << 16) {
            return null;
        }

        return new Sign(
            'size',
            false,
            sprintf(
                'Its archive has %s bytes; usual for this level are %s.',
                number_format($this->set->bytes),
                number_format($usual->median),
            ),
            ['bytes' => $this->set->bytes, 'usual' => $usual->median],
        );
    }

    private function tookLong(): ?Sign
    {
        $same = array_values(
            array_filter($this->earlier, fn (SetFacts $facts): bool => $facts->level === $this->set->level && $facts->seconds !== null),
        );
        if ($this->set->seconds === null || count($same) < self::OF_WEEKDAY) {
            return null;
        }
        $usual = Usual::of(array_map(fn (SetFacts $facts): float => (float) $facts->seconds, array_slice($same, -self::EARLIER)));
        if (
            $this->set->seconds < 2 * $usual->median ||
            $this->set->seconds < 10 ||
            $usual->score($this->set->seconds, 0.1 * $usual->median) <= self::FAR
        ) {
            return null;
        }

        return new Sign(
            'slow',
            false,
            sprintf('Making it took %.0f s; usual for this level are %.0f s.', $this->set->seconds, $usual->median),
            ['seconds' => $this->set->seconds, 'usual' => $usual->median],
        );
    }

    /** What is usual for the sum of these figures; null where too little is known. */
    private function usualOf(string ...$figures): ?Usual
    {
        return count($this->usual) < 3
            ? null
            : Usual::of(array_map(fn (SetFacts $facts): int|float => array_sum(array_map($facts->figure(...), $figures)), $this->usual));
    }

    private static function usualWords(?Usual $usual): string
    {
        return $usual === null ? 'not known yet' : ($usual->median < 0.5 ? 'none' : number_format($usual->median));
    }

    /** @param  array<array-key, string>  $contents */
    private static function example(array $contents): string
    {
        return $contents === [] ? '' : ' One of them: "'.Shown::name((string) array_key_first($contents)).'".';
    }

    private static function count(int $number, string $one): string
    {
        return number_format($number).' '.$one.($number === 1 ? '' : 's');
    }
}
