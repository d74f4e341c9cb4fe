<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Models\Run;
use App\Runs\RunFiles;
use Kaiseki\Core\UnableToWrite;

/**
 * A list of an outcome that may have a line for each of a million files: the first are kept with the run and signed, and where there are
 * more, all of them lie in a file beside the proof.
 */
final class LongList
{
    public const LEFT_OUT = 'left_out';

    public const DIFFERENCES = 'differences';

    public const FROM_OTHER_POINTS = 'from_other_points';

    /** Rows that are kept with the run. */
    public const FIRST = 1000;

    /**
     * @param  iterable<array<string, mixed>>  $rows  those that are a loss are the first of those that are kept
     * @return array<string, mixed> as it stands in the outcome: the list under its name, and NAME_count
     */
    public static function keep(Run $run, string $name, iterable $rows): array
    {
        $path = RunFiles::longList($run, $name);
        $file = fopen("$path.partial", 'wb') ?: throw UnableToWrite::open($path);
        $losses = $others = [];
        $count = 0;
        foreach ($rows as $row) {
            $count++;
            fwrite($file, json_encode($row, JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES)."\n");
            if (($row['loss'] ?? false) === true && count($losses) < self::FIRST) {
                $losses[] = $row;
            } elseif (count($others) < self::FIRST) {
                $others[] = $row;
            }
        }
        fclose($file);
        rename("$path.partial", $path);
        $count > self::FIRST || unlink($path);

        return [$name => array_slice([...$losses, ...$others], 0, self::FIRST), "{$name}_count" => $count];
    }

    /** @return iterable<array<string, mixed>> all of it */
    public static function all(Run $run, string $name): iterable
    {
        $file = @fopen(RunFiles::longList($run, $name), 'rb');
        if ($file === false) {
            yield from $run->outcome[$name] ?? [];

            return;
        }
        while (($line = fgets($file)) !== false) {
            yield (array) json_decode($line, true, 16, JSON_THROW_ON_ERROR);
        }
        fclose($file);
    }

    /**
     * How many there are, of which the outcome may have the first.
     *
     * @param  array<string, mixed>  $outcome  also of a run of long ago, which kept all
     */
    public static function count(array $outcome, string $name): int
    {
        return (int) ($outcome["{$name}_count"] ?? count($outcome[$name] ?? []));
    }
}
