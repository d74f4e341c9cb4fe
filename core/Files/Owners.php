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

    /** @param  bool  $byName  whether the names of users and groups here are those of the target */
    private function __construct(public readonly bool $mayGiveAway, private readonly bool $byName)
    {
    }

    /**
     * Those of this machine.
     *
     * @param  bool|null  $mayGiveAway  of who writes there; null: of this process
     */
    public static function here(?bool $mayGiveAway = null): self
    {
        return new self($mayGiveAway ?? posix_geteuid() === 0, true);
    }

    /** Those of another host, of which only the numbers are known. */
    public static function elsewhere(bool $mayGiveAway): self
    {
        return new self($mayGiveAway, false);
    }

    public function user(Version $version): int
    {
        if ($version->uname === '' || ! $this->mayGiveAway || ! $this->byName) {
            return $version->uid;
        }
        $this->users[$version->uname] ??= posix_getpwnam($version->uname)['uid'] ?? -1;

        return $this->users[$version->uname] < 0 ? $version->uid : $this->users[$version->uname];
    }

    public function group(Version $version): int
    {
        if ($version->gname === '' || ! $this->mayGiveAway || ! $this->byName) {
            return $version->gid;
        }
        $this->groups[$version->gname] ??= posix_getgrnam($version->gname)['gid'] ?? -1;

        return $this->groups[$version->gname] < 0 ? $version->gid : $this->groups[$version->gname];
    }
}
