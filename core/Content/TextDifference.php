<?php

declare(strict_types=1);

namespace Kaiseki\Core\Content;

use SebastianBergmann\Diff\Differ;
use SebastianBergmann\Diff\Output\DiffOnlyOutputBuilder;

/** In which lines two texts differ. */
final readonly class TextDifference
{
    /** Lines of each text that are compared: finding the longest common part takes time in squares. */
    public const MOST_LINES = 2500;

    private function __construct(
        /** @var list<DifferentLine> the same ones between them left out but for a few */
        public array $lines,
        public int $added,
        public int $removed,
        /** Whether only the beginnings were compared. */
        public bool $isCut,
    ) {
    }

    /** @param  int  $around  lines that are the same and shown before and after what is not */
    public static function between(string $old, string $new, int $around = 3): self
    {
        $olds = explode("\n", rtrim($old, "\n"));
        $news = explode("\n", rtrim($new, "\n"));
        [$skip, $olds, $news] = self::withoutSameEnds($olds, $news, $around);
        $isCut = count($olds) > self::MOST_LINES || count($news) > self::MOST_LINES;
        $differ = new Differ(new DiffOnlyOutputBuilder);
        $left = $right = $skip;
        $lines = [];
        $added = $removed = 0;
        foreach ($differ->diffToArray(array_slice($olds, 0, self::MOST_LINES), array_slice($news, 0, self::MOST_LINES)) as [$text, $what]) {
            $left += $what === Differ::ADDED ? 0 : 1;
            $right += $what === Differ::REMOVED ? 0 : 1;
            $added += $what === Differ::ADDED ? 1 : 0;
            $removed += $what === Differ::REMOVED ? 1 : 0;
            $lines[] = new DifferentLine($what === Differ::ADDED ? null : $left, $what === Differ::REMOVED ? null : $right, (string) $text);
        }

        return new self(self::near($lines, $around), $added, $removed, $isCut);
    }

    /**
     * What is the same at the beginning and at the end need not be compared.
     *
     * @param  list<string>  $olds
     * @param  list<string>  $news
     * @return array{int, list<string>, list<string>} lines that were left out at the beginning, and the rest
     */
    private static function withoutSameEnds(array $olds, array $news, int $around): array
    {
        for ($same = 0; isset($olds[$same], $news[$same]) && $olds[$same] === $news[$same];) {
            $same++;
        }
        $same = max(0, $same - $around);
        $end = 0;
        while (
            count($olds) - $end > $same &&
            count($news) - $end > $same &&
            $olds[count($olds) - 1 - $end] === $news[count($news) - 1 - $end]
        ) {
            $end++;
        }
        $end = max(0, $end - $around);

        return [$same, array_slice($olds, $same, count($olds) - $same - $end), array_slice($news, $same, count($news) - $same - $end)];
    }

    /**
     * @param  list<DifferentLine>  $lines
     * @return list<DifferentLine>
     */
    private static function near(array $lines, int $around): array
    {
        $keep = [];
        foreach ($lines as $i => $line) {
            if (! $line->isSame()) {
                for ($n = max(0, $i - $around); $n <= min(count($lines) - 1, $i + $around); $n++) {
                    $keep[$n] = true;
                }
            }
        }
        ksort($keep);

        $near = [];
        foreach (array_keys($keep) as $i) {
            $near[] = $near === [] || isset($keep[$i - 1]) ? $lines[$i] : $lines[$i]->afterGap();
        }

        return $near;
    }
}
