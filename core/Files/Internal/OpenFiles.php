<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files\Internal;

use Kaiseki\Core\Catalog\EntryPath;

/** Which files of this machine some program has open for writing, as proc(5) tells it to those who may ask. */
final readonly class OpenFiles
{
    /** The access mode bits of open(2). */
    private const ACCESS_MODE = 03;

    private const READ_ONLY = 0;

    /** @param  array<array-key, string>  $open  path below the folder => program and process number */
    private function __construct(private array $open)
    {
    }

    /** The program that has a file, or one in a folder, open; null if none has. */
    public function at(string $path): ?string
    {
        foreach (isset($this->open[$path]) ? [] : $this->open as $file => $program) {
            if (EntryPath::isWithin((string) $file, $path)) {
                return $program;
            }
        }

        return $this->open[$path] ?? null;
    }

    public static function below(string $folder): self
    {
        $top = rtrim((string) realpath($folder), '/').'/';
        $open = [];
        foreach ($top === '/' ? [] : (glob('/proc/[0-9]*', GLOB_NOSORT) ?: []) as $process) {
            if ((int) basename($process) === getmypid()) {
                continue;
            }
            foreach (@scandir("$process/fd", SCANDIR_SORT_NONE) ?: [] as $fd) {
                $path = $fd[0] === '.' ? false : @readlink("$process/fd/$fd");
                if ($path !== false && str_starts_with($path, $top) && self::isForWriting("$process/fdinfo/$fd")) {
                    $open[substr($path, strlen($top))] =
                        trim((string) @file_get_contents("$process/comm")).' (process '.basename($process).')';
                }
            }
        }

        return new self($open);
    }

    private static function isForWriting(string $info): bool
    {
        return preg_match('/^flags:\s*([0-7]+)$/m', (string) @file_get_contents($info), $m) === 1 &&
            ((int) octdec($m[1]) & self::ACCESS_MODE) !== self::READ_ONLY;
    }
}
