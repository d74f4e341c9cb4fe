<?php

declare(strict_types=1);

namespace Kaiseki\Core\Host;

use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\Permissions;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Files\Status;
use Kaiseki\Core\Files\UnableToRestore;

/**
 * A folder with what the process of a host refuses beyond leaving it. Whoever speaks for the desk can bring things and set
 * things aside, but destroys nothing that did not come by staging: what is removed elsewhere goes to a folder of ours at the
 * top of what was given, and neither that nor what was set aside is deleted before its time.
 */
final class GuardedFolder
{
    private const REMOVED = '.kaiseki-removed';

    private const CAP_CHOWN = 1;

    /** Entries of a folder that are looked at for open files. */
    private const MOST_IN_USE = 2000;

    private readonly bool $mayGiveAway;

    public function __construct(public readonly FolderBelow $below, private readonly FolderBelow $top, private readonly int $keep)
    {
        preg_match('/^CapEff:\s*([0-9a-f]+)$/m', (string) @file_get_contents('/proc/self/status'), $m);
        $this->mayGiveAway = (((int) hexdec($m[1] ?? '0')) & self::CAP_CHOWN) !== 0;
        $this->sweep();
    }

    public static function isOfRemoved(string $path): bool
    {
        return self::hasPart($path, self::REMOVED.'/');
    }

    public function mayGiveAway(): bool
    {
        return $this->mayGiveAway;
    }

    /** @throws UnableToRestore */
    public function mayWrite(string $path): void
    {
        if (self::isOfRemoved($path)) {
            throw UnableToRestore::at($path, 'what was removed stays as it is until its time is over');
        }
    }

    public function makeFolder(string $path, int $mode): void
    {
        $this->mayWrite($path);
        $this->below->makeFolder($path, $mode);
    }

    public function symlink(string $target, string $path): void
    {
        $this->mayWrite($path);
        $this->below->symlink($target, $path);
    }

    /** A second name of what was staged only: of anything else it would outlive what its owner does with it. */
    public function hardLink(string $existing, string $path): void
    {
        if (! self::isStaged($existing) || ! self::isStaged($path)) {
            throw UnableToRestore::at($path, 'second names are made while staging only');
        }
        $this->below->hardLink($existing, $path);
    }

    public function fifo(string $path): void
    {
        $this->mayWrite($path);
        $this->below->fifo($path);
    }

    public function describe(string $path, ?int $mode, int $uid, int $gid, int $mtime, bool $owner): void
    {
        $this->mayWrite($path);
        $this->below->describe($path, $mode, $uid, $gid, $mtime, $owner);
    }

    public function permit(string $path, Permissions $permissions, bool $owner): void
    {
        $this->mayWrite($path);
        $this->below->permit($path, $permissions, $owner);
    }

    public function rename(string $from, string $to): bool
    {
        $this->mayWrite($from);
        $this->mayWrite($to);
        if (self::isStaged($to) && ! self::isStaged($from)) {
            throw UnableToRestore::at($from, 'nothing is moved to where things are staged, since that is removed without asking');
        }

        return $this->below->rename($from, $to);
    }

    /** A staged file or an empty folder goes; what was set aside, when its time is over; anything else is moved out of the way. */
    public function remove(string $path): bool
    {
        $this->mayWrite($path);
        $status = $this->below->status($path);
        if ($status === null || $status->type === Status::FOLDER || self::isStaged($path)) {
            return $this->below->remove($path);
        }
        if (self::isSetAside($path)) {
            return ! $this->isYoung($status) && $this->below->remove($path);
        }
        $this->top->makeFolder(self::REMOVED);
        $name = bin2hex(random_bytes(8)).'-'.substr(EntryPath::split($path)[1], 0, 200);
        $this->below->moveTo($path, $this->top, self::REMOVED."/$name");
        $this->sweep();

        return true;
    }

    /** @throws UnableToRestore if it is neither staged nor set aside, or was set aside not long ago */
    public function removeTree(string $path): void
    {
        $status = $this->below->status($path);
        if ($status === null) {
            return;
        }
        if (! self::isStaged($path) && ! self::isSetAside($path)) {
            throw UnableToRestore::at($path, 'only what was staged or set aside is removed');
        }
        if (! self::isStaged($path) && $this->isYoung($status)) {
            $hours = round($this->keep / 3600, 1);
            throw UnableToRestore::at($path, "this host keeps what was set aside for $hours hours, and they are not over");
        }
        foreach ($status->type === Status::FOLDER ? $this->below->names($path) : [] as $name) {
            $this->removeTree("$path/$name");
        }
        $this->below->remove($path);
    }

    /** Whether some program has a file, or one in a folder, open for writing. */
    public function isInUse(string $path): bool
    {
        $left = self::MOST_IN_USE;

        return $this->isInUseBelow($path, $left);
    }

    private function isInUseBelow(string $path, int &$left): bool
    {
        $type = $left-- > 0 ? $this->below->status($path)?->type : null;
        if ($type === Status::FILE) {
            return $this->below->isOpenForWriting($path);
        }
        foreach ($type === Status::FOLDER ? $this->below->names($path) : [] as $name) {
            if ($this->isInUseBelow(EntryPath::join($path, $name), $left)) {
                return true;
            }
        }

        return false;
    }

    /** What was removed and whose time is over. */
    private function sweep(): void
    {
        foreach ($this->top->names(self::REMOVED) as $name) {
            $status = $this->top->status(self::REMOVED."/$name");
            if ($status !== null && ! $this->isYoung($status)) {
                $this->top->removeTree(self::REMOVED."/$name");
            }
        }
    }

    /** The time of its last change of any kind, which nobody can set back: it was moved then, or earlier. */
    private function isYoung(Status $status): bool
    {
        return $this->keep > 0 && $status->ctime > (time() - $this->keep) * 1_000_000_000;
    }

    private static function isStaged(string $path): bool
    {
        return self::hasPart($path, RestoreOrder::stagingOf(''));
    }

    private static function isSetAside(string $path): bool
    {
        return self::hasPart($path, RestoreOrder::setAsideOf(''));
    }

    /** Whether a part of a path begins so. */
    private static function hasPart(string $path, string $begin): bool
    {
        return str_contains("/$path/", "/$begin");
    }
}
