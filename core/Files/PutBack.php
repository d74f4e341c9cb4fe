<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;

/**
 * Undoes what a run did to its target, from its journal, also if it was killed half-way: what it placed goes, what it
 * replaced comes back, and the folders it worked in get their modes and times again. What somebody has changed since is
 * left, and named; or, where that is told, moved out of the way under a dated name. Nothing of theirs is lost.
 */
final class PutBack
{
    public int $removed = 0;

    public int $returned = 0;

    /** Of these, what stands there as the run left it, and has its permissions back. */
    public int $permitted = 0;

    /** @var list<LeftOut> */
    public array $left = [];

    /** What may have got a part of its permissions only, since the run was killed. */
    private ?string $half = null;

    /** @var array<array-key, string> path => the name under which what somebody changed there is kept */
    public array $kept = [];

    public function __construct(
        private readonly RestoreOrder $order,
        private readonly Target $target,
        private readonly bool $alsoChanged = false,
    ) {
    }

    /** @throws UnableToRestore if the target cannot be written to */
    public function run(string $journal): void
    {
        $lines = [...Journal::read($journal)];
        $this->half = Journal::holds($journal, Journal::FINISHED) ? null : self::lastPermitted($lines);
        foreach (array_reverse($lines) as $line) {
            match ($line[0]) {
                Journal::PLACED => $this->take($line[1], $line[2]),
                Journal::SET_ASIDE, Journal::RENAMED => $this->return($line[1], $line[2]),
                Journal::PERMITTED => $this->permit(...array_slice($line, 1)),
                default => null,
            };
        }
        $this->target->removeTree($this->order->staging());
        $this->removeEmpty($this->order->setAside());
        foreach (array_reverse($lines) as $line) {
            if ($line[0] === Journal::ENTERED) {
                $this->describe(...array_slice($line, 1));
            }
        }
        if (Journal::holds($journal, Journal::MADE_TARGET)) {
            $this->target->removeIfEmpty();
        }
    }

    private function take(string $path, string $now): void
    {
        $status = $this->target->status($now);
        if ($status === null) {
            return;
        }
        if ($status->type === Status::FOLDER) {
            foreach ($this->target->names($now) as $name) {
                $this->take(EntryPath::join($path, $name), EntryPath::join($now, $name));
            }
            if ($this->target->remove($now)) {
                $this->removed++;
            } else {
                $this->leave($now, 'something else is in it now');
            }

            return;
        }
        $packed = $this->order->items[$path] ?? null;
        $version = $packed === null ? null : Version::unpack($packed);
        $untouched =
            $version !== null &&
            match ($status->type) {
                Status::FILE => $status->size === $version->size && $this->target->digest($now) === $version->digest,
                Status::SYMLINK => $this->target->readLink($now) === $version->linkTarget,
                default => true,
            };
        if (! $untouched) {
            $this->leave($now, $version === null ? 'it did not come from this run' : 'it was changed since');

            return;
        }
        $this->target->remove($now);
        $this->removed++;
    }

    /** What is not as the run left it stays: where it stands, or under a dated name. */
    private function leave(string $now, string $because): void
    {
        if (! $this->alsoChanged) {
            $this->left[] = new LeftOut($now, $because, true);

            return;
        }
        [$folder, $name] = EntryPath::split($now);
        $to = EntryPath::join($folder, RestoreOrder::marked($name, "changed since run {$this->order->key}"));
        for ($n = 2; $this->target->status($to) !== null; $n++) {
            $to = EntryPath::join($folder, RestoreOrder::marked($name, "changed since run {$this->order->key}, $n"));
        }
        $this->target->rename($now, $to);
        $this->kept[$now] = $to;
    }

    private function return(string $path, string $aside): void
    {
        if ($this->target->status($aside) === null) {
            return;
        }
        if (! $this->target->rename($aside, $path)) {
            $this->left[] = new LeftOut($path, "something stands there; what was there before is kept as \"$aside\"", true);

            return;
        }
        $this->returned++;
    }

    /** @param  list<list<string>>  $lines */
    private static function lastPermitted(array $lines): ?string
    {
        $last = null;
        foreach ($lines as $line) {
            $last = $line[0] === Journal::PERMITTED ? $line[1] : $last;
        }

        return $last;
    }

    /** What it was given is taken from it again, unless somebody gave it something else since. */
    private function permit(string $path, string $mode, string $uid, string $gid, string $access): void
    {
        $packed = $this->order->items[$path] ?? null;
        $before = new Permissions((int) $mode, (int) $uid, (int) $gid, $access === AccessList::NOT_KNOWN ? null : $access);
        $seen = Seen::by($this->target, $path, Seen::ACCESS);
        $now = Permissions::seen($seen);
        if ($packed === null || $now === null) {
            return;
        }
        $owners = $this->target->owners();
        // What it was given depended on what it was, not on what it is.
        $given = Permissions::toGive(Version::unpack($packed), $before, $owners, $this->order->knowsLists);
        $isUntouched = $this->half === $path || $given->equals($now);
        if (! $isUntouched && ! $this->alsoChanged) {
            $this->left[] = new LeftOut($path, 'its permissions were changed since', true);

            return;
        }
        try {
            $this->target->permit($path, $before, $owners->mayGiveAway);
            $this->returned++;
            $this->permitted++;
        } catch (UnableToRestore $failure) {
            $this->left[] = new LeftOut($path, $failure->getMessage(), true);
        }
    }

    private function describe(string $folder, string $mode, string $uid, string $gid, string $mtime): void
    {
        if ($this->target->status($folder)?->type === Status::FOLDER) {
            $this->target->describe($folder, (int) $mode, (int) $uid, (int) $gid, (int) $mtime, $this->target->owners()->mayGiveAway);
        }
    }

    private function removeEmpty(string $folder): void
    {
        foreach ($this->target->names($folder) as $name) {
            if ($this->target->status("$folder/$name")?->type === Status::FOLDER) {
                $this->removeEmpty("$folder/$name");
            }
        }
        if ($this->target->names($folder) === []) {
            $this->target->remove($folder);
        }
    }
}
