<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use RuntimeException;
use Symfony\Component\Process\Process;

/** The account that a stand-in server of mail or calendars runs as: whoever starts it, or "mail" where root does. */
final class ServerAccount
{
    /** @return array{int, int} user and group */
    public static function ids(): array
    {
        $mail = posix_geteuid() === 0 ? posix_getpwnam('mail') : false;

        return $mail === false ? [posix_geteuid(), posix_getegid()] : [$mail['uid'], $mail['gid']];
    }

    /**
     * @param  list<string>  $command
     * @return list<string> the same, as that account
     */
    public static function command(array $command): array
    {
        if (posix_geteuid() !== 0) {
            return $command;
        }
        [$uid, $gid] = self::ids();

        return ['/usr/bin/setpriv', "--reuid=$uid", "--regid=$gid", '--clear-groups', ...$command];
    }

    /** Where root starts it, all of a folder belongs to the account. */
    public static function own(string $folder): void
    {
        if (posix_geteuid() === 0) {
            [$uid, $gid] = self::ids();
            (new Process(['chown', '-hR', "$uid:$gid", $folder]))->setTimeout(null)->mustRun();
        }
    }

    public static function put(string $file, string $content): void
    {
        file_put_contents("$file.new", $content) === strlen($content) || throw new RuntimeException("$file cannot be written");
        chmod("$file.new", 0600);
        rename("$file.new", $file);
    }
}
