<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;

/**
 * Renames what was staged into its place. A folder that stands there already is gone into; what stands there as anything
 * else is dealt with by the rule. Each deed is in the journal before it is done, so this can be repeated after a crash.
 */
final class Placement
{
    /** @var array<array-key, string> staged path => where it is now */
    private array $placed = [];

    /** @var array<array-key, string> path => why it was left as it was */
    private array $kept = [];

    private int $replaced = 0;

    private int $setAside = 0;

    /** @var array<array-key, true> folders that stood there, and of which it is written down how they were */
    private array $entered = [];

    private int $beside = 0;

    /** @var array<array-key, string> folder => what of its access list was not given, and why */
    private array $withoutList = [];

    public function __construct(private readonly RestoreOrder $order, private readonly Target $target, private readonly Journal $journal)
    {
        foreach (Journal::read($journal->path) as $line) {
            if ($line[0] === Journal::PLACED) {
                $this->placed[$line[1]] = $line[2];
                $this->beside += $line[1] === $line[2] ? 0 : 1;
            } elseif ($line[0] === Journal::KEPT) {
                $this->kept[$line[1]] = $line[2];
            } elseif ($line[0] === Journal::SET_ASIDE || $line[0] === Journal::RENAMED) {
                $this->replaced++;
                $this->setAside += $line[0] === Journal::SET_ASIDE ? 1 : 0;
            } elseif ($line[0] === Journal::ENTERED) {
                $this->entered[$line[1]] = true;
            }
        }
    }

    public function place(): void
    {
        $this->placeChildren('');
        $this->describeFolders();
        $this->target->removeTree($this->order->staging());
        $this->target->sync();
        $this->journal->add(Journal::FINISHED);
    }

    /** Where something of the selection stands now; null if it was left out by the rule. */
    public function whereIs(string $path): ?string
    {
        if (isset($this->kept[$path])) {
            return null;
        }
        for ($prefix = $path; $prefix !== ''; [$prefix] = EntryPath::split($prefix)) {
            if (isset($this->placed[$prefix])) {
                return $this->placed[$prefix].substr($path, strlen($prefix));
            }
            if (isset($this->kept[$prefix])) {
                return null;
            }
        }

        return $path;
    }

    /** @return array<array-key, string> path => why it was left as it was */
    public function kept(): array
    {
        return $this->kept;
    }

    /** @return array<array-key, string> folder => what of its access list was not given, and why */
    public function withoutList(): array
    {
        return $this->withoutList;
    }

    /** How many things that stood there were set aside or renamed. */
    public function replaced(): int
    {
        return $this->replaced;
    }

    /** How many things are in the set-aside. */
    public function setAside(): int
    {
        return $this->setAside;
    }

    /** How many things got a dated name, since something stood there. */
    public function beside(): int
    {
        return $this->beside;
    }

    private function placeChildren(string $folder): void
    {
        $staged = rtrim($this->order->staging().'/'.$folder, '/');
        $names = $this->target->names($staged);
        if ($names !== []) {
            $this->enter($folder);
        }
        sort($names, SORT_STRING);
        foreach ($names as $name) {
            $this->placeOne(EntryPath::join($folder, $name), "$staged/$name");
        }
    }

    private function enter(string $folder): void
    {
        $before = isset($this->entered[$folder]) ? null : $this->target->status($folder);
        if ($before !== null) {
            $this->journal->entered($folder, $before);
            $this->entered[$folder] = true;
        }
    }

    private function placeOne(string $path, string $staged): void
    {
        $present = $this->target->status($path);
        if ($present === null) {
            $this->moveIn($staged, $path, $path);

            return;
        }
        $isFolder = $this->target->status($staged)?->type === Status::FOLDER;
        if ($isFolder && $present->type === Status::FOLDER) {
            $this->placeChildren($path);

            return;
        }
        $rule = $this->order->ruleAt($path);
        switch ($rule) {
            case ConflictRule::MissingOnly:
                $this->keep($path, $staged, 'something stands there already');
                break;
            case ConflictRule::Beside:
                $this->moveIn($staged, $path, $this->freeName($path));
                $this->beside++;
                break;
            case ConflictRule::RenamePresent:
                $to = $this->freeName($path);
                $this->journal->add(Journal::RENAMED, $path, $to);
                $this->target->rename($path, $to);
                $this->replaced++;
                $this->moveIn($staged, $path, $path);
                break;
            case ConflictRule::Replace:
            case ConflictRule::ReplaceAll:
                if ($rule === ConflictRule::Replace && $this->isSame($path, $present)) {
                    $this->keep($path, $staged, 'it is the same already');
                    break;
                }
                $aside = $this->order->setAside().'/'.$path;
                $this->target->makeFolder(EntryPath::split($aside)[0]);
                $this->journal->add(Journal::SET_ASIDE, $path, $aside);
                $this->target->rename($path, $aside);
                $this->replaced++;
                $this->setAside++;
                $this->moveIn($staged, $path, $path);
        }
    }

    private function moveIn(string $staged, string $path, string $to): void
    {
        $this->journal->add(Journal::PLACED, $path, $to);
        if (! $this->target->rename($staged, $to)) {
            throw UnableToRestore::targetChanged($to);
        }
        $this->placed[$path] = $to;
    }

    private function keep(string $path, string $staged, string $because): void
    {
        $this->journal->add(Journal::KEPT, $path, $because);
        $this->kept[$path] = $because;
        $this->target->removeTree($staged);
    }

    private function freeName(string $path): string
    {
        [$folder, $name] = EntryPath::split($path);
        $to = EntryPath::join($folder, RestoreOrder::marked($name, $this->order->date));
        for ($n = 2; $this->target->status($to) !== null; $n++) {
            $to = EntryPath::join($folder, RestoreOrder::marked($name, "{$this->order->date} $n"));
        }

        return $to;
    }

    private function isSame(string $path, Status $present): bool
    {
        $packed = $this->order->items[$path] ?? null;

        return $packed !== null && $packed[0] === 'f' && $this->order->isSame($this->target, $path, $present, Version::unpack($packed));
    }

    /** Modes and times of the folders that this run made, what is deepest first: each deed inside one changes its time. */
    private function describeFolders(): void
    {
        $owners = $this->target->owners();
        $lists = new AccessLists($this->order, $this->target);
        foreach (array_reverse($this->order->items, true) as $path => $packed) {
            $path = (string) $path;
            if ($packed[0] !== 'd' || ($path === '' ? ! $this->order->describeTop : ! $this->wasMade($path))) {
                continue;
            }
            $now = $this->whereIs($path);
            if ($now !== null && $this->target->status($now)?->type === Status::FOLDER) {
                $version = Version::unpack($packed);
                $this->target->describe(
                    $now,
                    $this->order->modeOf($version),
                    $owners->user($version),
                    $owners->group($version),
                    $version->mtime,
                    $owners->mayGiveAway,
                );
                $because = $version->access === '' ? null : $lists->give($now, $version);
                $because === null || $this->withoutList[$path] = $because;
            }
        }
    }

    /** Whether a folder came with this run, rather than being gone into. */
    public function wasMade(string $path): bool
    {
        for ($prefix = $path; $prefix !== ''; [$prefix] = EntryPath::split($prefix)) {
            if (isset($this->placed[$prefix])) {
                return true;
            }
        }

        return false;
    }
}
