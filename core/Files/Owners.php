<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Catalog\Version;

/** Who owns a restored file here: the user and group of that name, else the number. Only root can give files away. */
final class Owners
{
    /** @var array<string, int> */
    private array $users = [];

    /** @var array<string, int> */
    private array $groups = [];

    public readonly bool $mayGiveAway;

    public function __construct()
    {
        $this->mayGiveAway = posix_geteuid() === 0;
    }

    public function user(Version $version): int
    {
        if ($version->uname === '' || ! $this->mayGiveAway) {
            return $version->uid;
        }
        $this->users[$version->uname] ??= posix_getpwnam($version->uname)['uid'] ?? -1;

        return $this->users[$version->uname] < 0 ? $version->uid : $this->users[$version->uname];
    }

    public function group(Version $version): int
    {
        if ($version->gname === '' || ! $this->mayGiveAway) {
            return $version->gid;
        }
        $this->groups[$version->gname] ??= posix_getgrnam($version->gname)['gid'] ?? -1;

        return $this->groups[$version->gname] < 0 ? $version->gid : $this->groups[$version->gname];
    }
}
