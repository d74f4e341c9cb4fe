<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files\Internal;

/** Which files of this machine some program has open for writing, as proc(5) tells it to those who may ask. */
final class OpenFiles
{
    /** The access mode bits of open(2). */
    private const ACCESS_MODE = 03;

    private const READ_ONLY = 0;

    /** @return array<string, string> path below the folder => program and process number */
    public static function below(string $folder): array
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

        return $open;
    }

    private static function isForWriting(string $info): bool
    {
        return preg_match('/^flags:\s*([0-7]+)$/m', (string) @file_get_contents($info), $m) === 1 &&
            ((int) octdec($m[1]) & self::ACCESS_MODE) !== self::READ_ONLY;
    }
}
