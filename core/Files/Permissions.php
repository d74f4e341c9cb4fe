<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\AccessEntry;
use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;

/** Whose a file or a folder is, and who may do what with it. */
final readonly class Permissions
{
    public function __construct(
        /** Permission bits. */
        public int $mode,
        public int $uid,
        public int $gid,
        /** See AccessList; null where a host cannot be asked for lists. */
        public ?string $access,
    ) {
    }

    /** Null if nothing stands there. */
    public static function seen(Seen $seen): ?self
    {
        $status = $seen->status;

        return $status === null ? null : new self($status->mode, $status->uid, $status->gid, $seen->access);
    }

    /**
     * Those of a version, as they are to be given to what stands there now. A set-user or set-group bit of a file is never added, and kept
     * where both have it; of a folder it says whose what is made in it will be.
     *
     * @param  bool  $knowsLists  whether a version without a list had none; else a present one stays
     */
    public static function toGive(Version $version, self $present, Owners $owners, bool $knowsLists): self
    {
        $added = $version->kind === EntryKind::Folder ? 0 : 06000 & ~$present->mode;

        return new self(
            $version->mode & ~$added,
            $owners->mayGiveAway ? $owners->user($version) : $present->uid,
            $owners->mayGiveAway ? $owners->group($version) : $present->gid,
            $version->access === '' && ! $knowsLists ? $present->access : $version->access,
        );
    }

    /** Whether they allow the same; a name in a list counts as whom it stands for on this machine. */
    public function equals(self $other): bool
    {
        return $this->mode === $other->mode &&
            $this->uid === $other->uid &&
            $this->gid === $other->gid &&
            ($this->access === null || $other->access === null || PosixAcl::areSame($this->access, $other->access));
    }

    /** @return list<string> what becomes of the present ones when these take their place */
    public function changesFrom(self $present): array
    {
        $changes = [];
        if ($this->mode !== $present->mode) {
            $changes[] = self::modeInWords($present->mode).' becomes '.self::modeInWords($this->mode);
        }
        foreach ([['owner', $present->uid, $this->uid], ['group', $present->gid, $this->gid]] as [$what, $from, $to]) {
            if ($from !== $to) {
                $name = fn (int $id): string => PosixAcl::nameOf($what === 'owner', $id);
                $changes[] = "$what {$name($from)} becomes {$name($to)}";
            }
        }
        if ($this->ofGroup() !== $present->ofGroup()) {
            $changes[] = 'the owning group may '.self::bits($this->ofGroup()).', not '.self::bits($present->ofGroup());
        }
        [$then, $now] = [$this->named(), $present->named()];

        return [
            ...$changes,
            ...array_map(fn (string $entry): string => "$entry comes", array_values(array_diff($then, $now))),
            ...array_map(fn (string $entry): string => "$entry goes", array_values(array_diff($now, $then))),
        ];
    }

    /** What the owning group may: with a list, the mode shows its mask in that place. */
    private function ofGroup(): int
    {
        return ($this->access ?? '') === '' ? $this->mode >> 3 & 7 : (AccessList::of((string) $this->access)?->ofGroup() ?? 0);
    }

    /** @return list<string> entries that say more than a mode can */
    private function named(): array
    {
        $entries = AccessList::of((string) $this->access)->entries ?? [];

        return array_values(array_map(
            fn (AccessEntry $entry): string => $entry->text(),
            array_filter($entries, fn (AccessEntry $entry): bool => $entry->who !== '' || $entry->isDefault),
        ));
    }

    private static function bits(int $bits): string
    {
        return $bits === 0 ? 'nothing' : self::three($bits);
    }

    /** Three permission bits, as one entry of a list has them: "r-x". */
    public static function three(int $bits): string
    {
        return substr(self::modeInWords($bits), 6);
    }

    public static function modeInWords(int $mode): string
    {
        $words = '';
        foreach ([6, 3, 0] as $i => $shift) {
            $bits = $mode >> $shift;
            $isSpecial = ($mode & [04000, 02000, 01000][$i]) !== 0;
            $mark = $i === 2 ? 't' : 's';
            $words .= (($bits & 4) !== 0 ? 'r' : '-').(($bits & 2) !== 0 ? 'w' : '-').
                ($isSpecial ? (($bits & 1) !== 0 ? $mark : strtoupper($mark)) : (($bits & 1) !== 0 ? 'x' : '-'));
        }

        return $words;
    }
}
