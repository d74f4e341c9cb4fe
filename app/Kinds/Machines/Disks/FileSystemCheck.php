<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use App\Instance;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Machine\PointOfDisk;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\UnableToWrite;
use Symfony\Component\Filesystem\Filesystem;
use Symfony\Component\Process\ExecutableFinder;
use Symfony\Component\Process\Process;

/**
 * A file system of a point, checked by the tool that is its own, on a copy that is thrown away. What was in its journal is played back
 * on the copy first, as a mount would; nothing is repaired.
 */
final class FileSystemCheck
{
    public const CLEAN = 'clean';

    public const WRONG = 'wrong';

    public const NOT_CHECKED = 'not checked';

    /** Bytes that are copied at most. */
    private const MOST = 8 << 30;

    /** Seconds of one tool. */
    private const PATIENCE = 3600;

    /** What a tool that reads bytes from outside may take. */
    private const CONFINED = ['prlimit', '--as=4294967296', '--cpu=1800', '--core=0', '--'];

    private const ENVIRONMENT = ['PATH' => '/usr/sbin:/usr/bin:/sbin:/bin', 'LC_ALL' => 'C'];

    /** Type of a file system => commands, of which the last tells: exit status 0 for clean. */
    private const TOOLS = [
        'ext' => [['e2fsck', '-E', 'journal_only', '-y'], ['e2fsck', '-f', '-n']],
        'FAT' => [['fsck.fat', '-n']],
    ];

    private function __construct(public readonly string $result, public readonly string $words)
    {
    }

    public static function of(VolumeOfPoint $volume, PointOfDisk $plan): self
    {
        $type = $volume->files?->type() ?? '';
        foreach (self::TOOLS as $begins => $commands) {
            if (str_starts_with($type, $begins)) {
                return self::by($commands, $volume, $plan);
            }
        }

        return new self(self::NOT_CHECKED, $volume->because ?? "there is no tool for $type");
    }

    /** @param  non-empty-list<non-empty-list<string>>  $commands */
    private static function by(array $commands, VolumeOfPoint $volume, PointOfDisk $plan): self
    {
        $tool = $commands[0][0];
        if ((new ExecutableFinder)->find($tool, null, ['/usr/sbin', '/sbin']) === null) {
            return new self(self::NOT_CHECKED, "$tool is not on this machine");
        }
        $copy = Instance::folder('tmp').'/volume-'.bin2hex(random_bytes(6));
        try {
            $unfit = self::copy($volume, $plan, $copy);

            return $unfit === null ? self::told($commands, $copy) : new self(self::NOT_CHECKED, $unfit);
        } catch (UnreadableImage $unreadable) {
            return new self(self::NOT_CHECKED, "its image {$unreadable->getMessage()}");
        } catch (UnableToWrite $unable) {
            return new self(self::NOT_CHECKED, rtrim(lcfirst($unable->getMessage()), '.'));
        } finally {
            (new Filesystem)->remove($copy);
        }
    }

    /** @return string|null why it cannot be copied */
    private static function copy(VolumeOfPoint $volume, PointOfDisk $plan, string $copy): ?string
    {
        $blocks = self::blocks($volume, $plan);
        $bytes = count($blocks) * Blocks::BYTES;
        if ($bytes > self::MOST || $bytes > disk_free_space(dirname($copy)) / 2) {
            return "the copy that is checked would take {$bytes} bytes";
        }
        $to = fopen($copy, 'xb');
        ($to !== false && chmod($copy, 0600) && ftruncate($to, $volume->partition->size())) ||
            throw UnableToWrite::open($copy, 'The copy that is checked');
        foreach ($blocks as $number) {
            $from = max(0, $number * Blocks::BYTES - $volume->partition->from);
            $end = min($volume->partition->size(), ($number + 1) * Blocks::BYTES - $volume->partition->from);
            $piece = $volume->partition->read($from, $end - $from);
            (fseek($to, $from) === 0 && fwrite($to, $piece) === strlen($piece)) ||
                throw UnableToWrite::full($copy);
        }
        fclose($to);

        return null;
    }

    /** @return list<int> numbers of the disk's blocks that the volume has a part of, and that are not zeros */
    private static function blocks(VolumeOfPoint $volume, PointOfDisk $plan): array
    {
        $first = intdiv($volume->partition->from, Blocks::BYTES);
        $behind = intdiv($volume->partition->from + $volume->partition->size() + Blocks::BYTES - 1, Blocks::BYTES);
        $numbers = [];
        foreach ($plan->pieces() as [$from, $to, $blocks]) {
            if ($to > $first && $from < $behind) {
                $within = fn (int $number): bool => $number >= $first && $number < $behind;
                array_push($numbers, ...array_filter(array_keys($blocks), $within));
            }
        }

        return $numbers;
    }

    /** @param  non-empty-list<non-empty-list<string>>  $commands */
    private static function told(array $commands, string $copy): self
    {
        foreach ($commands as $command) {
            $process = new Process([...self::CONFINED, ...$command, $copy], '/', self::ENVIRONMENT);
            $process->setTimeout(self::PATIENCE);
            $process->run();
        }
        if ($process->getExitCode() === 0) {
            return new self(self::CLEAN, '');
        }
        $lines = array_filter(array_map(trim(...), explode("\n", str_replace($copy, '', $process->getOutput()))));
        $said = mb_strimwidth(implode(' ', array_map(Shown::name(...), array_slice($lines, 0, 6))), 0, 400, '...');

        return new self(self::WRONG, "{$command[0]} says: $said");
    }
}
