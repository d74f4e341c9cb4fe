<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;

/** What is to be brought back, where to, and what happens where something stands already. */
final readonly class RestoreOrder
{
    public function __construct(
        /** Names the staging folder and the set-aside: letters, digits and dashes. */
        public string $key,
        /** @var array<array-key, string> path below the target => packed version, a folder before what is in it */
        public array $items,
        /** The folder of this machine they go below. */
        public string $target,
        public ConflictRule $conflict,
        /** Goes into the names of what is put beside something, such as "2026-11-12 0824". */
        public string $date,
        public bool $keepSetId = false,
        /** Whether the top's own mode and time are restored too. */
        public bool $describeTop = false,
        /** @var array<array-key, ConflictRule> folder => the rule that holds in it and below instead */
        public array $conflictIn = [],
        /** Whether nothing comes back but whose it was and who might do what with it, of what stands there. */
        public bool $permissionsOnly = false,
        /** Whether what has no access list in it had none; else a list that stands there stays. */
        public bool $knowsLists = true,
    ) {
    }

    /** What happens where something stands at a path already: the rule of the nearest folder that has its own. */
    public function ruleAt(string $path): ConflictRule
    {
        for ($folder = $this->conflictIn === [] ? '' : $path; $folder !== ''; [$folder] = EntryPath::split($folder)) {
            if (isset($this->conflictIn[$folder])) {
                return $this->conflictIn[$folder];
            }
        }

        return $this->conflictIn[''] ?? $this->conflict;
    }

    /** Whether something that stands there may have to go out of the way. */
    public function mayReplace(): bool
    {
        return array_filter([$this->conflict, ...array_values($this->conflictIn)], fn (ConflictRule $rule): bool => $rule->replaces()) !==
            [];
    }

    /** Why something of the selection cannot come back at all; null if it can. */
    public static function leftOut(string $path, Version $version): ?LeftOut
    {
        return match (true) {
            $version->isUnknown() => new LeftOut($path, 'its content is in no archive that can be read', true),
            $version->kind === EntryKind::Excluded => new LeftOut($path, 'it was excluded when the sets were made', false),
            $version->kind === EntryKind::NotStored => new LeftOut(
                $path,
                'it was not stored: a socket, or gone while the set was made',
                false,
            ),
            $version->kind === EntryKind::CharacterDevice, $version->kind === EntryKind::BlockDevice => new LeftOut(
                $path,
                'devices are not brought back',
                false,
            ),
            default => null,
        };
    }

    /** The name of the staging folder of a run. */
    public static function stagingOf(string $key): string
    {
        return ".kaiseki-staging-$key";
    }

    public static function setAsideOf(string $key): string
    {
        return ".kaiseki-set-aside-$key";
    }

    public function staging(): string
    {
        return self::stagingOf($this->key);
    }

    public function setAside(): string
    {
        return self::setAsideOf($this->key);
    }

    /** Whether a file that stands at a path is this version already: kind, size, permissions, content, and time as the target has it. */
    public function isSame(Look $target, string $path, Status $status, Version $version): bool
    {
        $step = $target->timeStep();

        return $status->type === Status::FILE &&
            $status->size === $version->size &&
            $status->mode === $this->modeOf($version) &&
            intdiv($status->mtime, $step) === intdiv($version->mtime, $step) &&
            $target->digest($path, $status->size) === $version->digest &&
            ($version->access === '' || PosixAcl::areSame($target->access($path, false) ?? $version->access, $version->access));
    }

    /** Permission bits as they are to be on the target. */
    public function modeOf(Version $version): int
    {
        return $this->keepSetId ? $version->mode : $version->mode & ~06000;
    }

    /**
     * All in one folder: clashing names are numbered, folders dropped. Whom a folder kept out does not get at what was in it for that.
     *
     * @param  array<array-key, string>  $items  a folder before what is in it
     * @return array<array-key, string> name => packed version
     */
    public static function flatten(array $items): array
    {
        $flat = $taken = [];
        $open = ['' => 07777];
        foreach ($items as $path => $packed) {
            [$folder, $name] = EntryPath::split((string) $path);
            $above = $open[$folder] ?? 07777;
            if ($packed[0] === 'd') {
                $open[$path] = $above & self::letIn(Version::unpack($packed)->narrowedTo(07777)->mode);

                continue;
            }
            if ($above !== 07777) {
                $version = Version::unpack($packed);
                $packed = $version->narrowedTo($above)->pack();
            }
            $free = $name;
            for ($n = 2; isset($taken[mb_strtolower(mb_scrub($free))]); $n++) {
                $free = self::marked($name, (string) $n);
            }
            $taken[mb_strtolower(mb_scrub($free))] = true;
            $flat[$free] = $packed;
        }

        return $flat;
    }

    /** The permission bits that still mean something below a folder of this mode: who may not enter it has none. */
    private static function letIn(int $mode): int
    {
        return 07700 | (($mode & 010) !== 0 ? 070 : 0) | (($mode & 01) !== 0 ? 07 : 0);
    }

    /**
     * One thing under another name, with all that is in it; the folders above it stay.
     *
     * @param  array<array-key, string>  $items
     * @return array<array-key, string>
     */
    public static function renamed(array $items, string $path, string $name): array
    {
        $to = EntryPath::join(EntryPath::split($path)[0], $name);
        $renamed = [];
        foreach ($items as $at => $packed) {
            $at = (string) $at;
            $renamed[EntryPath::isWithin($at, $path) ? $to.substr($at, strlen($path)) : $at] = $packed;
        }

        return $renamed;
    }

    /** A name with a mark in front of its ending, cut so that it stays within 255 bytes. */
    public static function marked(string $name, string $mark): string
    {
        $dot = strrpos($name, '.');
        [$stem, $ending] =
            $dot === false || $dot === 0 || strlen($name) - $dot > 12 ? [$name, ''] : [substr($name, 0, $dot), substr($name, $dot)];

        return substr($stem, 0, 255 - strlen($ending) - strlen($mark) - 3)." ($mark)".$ending;
    }
}
