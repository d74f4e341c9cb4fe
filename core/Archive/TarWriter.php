<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

use Kaiseki\Core\Archive\Internal\PaxRecords;

/** Writes tar in the pax interchange format (POSIX.1-2017), with GNU tar's folder records, so that GNU tar reads it back. */
final class TarWriter
{
    private const BLOCK = 512;

    private int $left = 0;

    private int $padding = 0;

    public function __construct(private readonly GzipMemberWriter $out)
    {
    }

    /** Notes that stand before all members: what GNU tar passes over, and Kaiseki reads. */
    public function note(string $comment): void
    {
        $this->extended('g', ['comment' => $comment]);
    }

    /**
     * Begins a member. Of a file, exactly its size must be handed to content() then.
     *
     * @param  string|null  $dumpDir  the encoded records of a folder
     * @param  array<string, string>  $extended  see TarEntry::$extended
     */
    public function begin(
        EntryKind $kind,
        string $path,
        int $size,
        int $mode,
        int $uid,
        int $gid,
        string $uname,
        string $gname,
        int $mtime,
        string $linkTarget = '',
        ?string $dumpDir = null,
        array $extended = [],
    ): Place {
        $place = $this->out->mayBeginMember();
        $records = $extended;
        $name = $kind === EntryKind::Folder ? rtrim($path, '/').'/' : $path;
        if (strlen($name) > 100) {
            $records['path'] = $name;
        }
        if (strlen($linkTarget) > 100) {
            $records['linkpath'] = $linkTarget;
        }
        $seconds = intdiv($mtime, 1_000_000_000);
        if ($mtime % 1_000_000_000 !== 0 || $seconds < 0 || $seconds > 077777777777) {
            $records['mtime'] = self::decimal($mtime);
            $seconds = max(0, min(077777777777, $seconds));
        }
        foreach (['uid' => $uid, 'gid' => $gid] as $keyword => $id) {
            if ($id > 07777777) {
                $records[$keyword] = (string) $id;
            }
        }
        foreach (['uname' => $uname, 'gname' => $gname] as $keyword => $owner) {
            if (strlen($owner) > 31) {
                $records[$keyword] = $owner;
            }
        }
        if ($size > 077777777777) {
            $records['size'] = (string) $size;
        }
        if ($dumpDir !== null) {
            $records['GNU.dumpdir'] = $dumpDir;
        }
        if ($records !== []) {
            $this->extended('x', $records);
        }
        $type = match ($kind) {
            EntryKind::File => '0',
            EntryKind::HardLink => '1',
            EntryKind::Symlink => '2',
            EntryKind::Folder => '5',
            EntryKind::Fifo => '6',
            default => throw UnreadableArchive::refused('a kind that is not stored', 0),
        };
        $this->header(
            $type,
            substr($name, 0, 100),
            $size > 077777777777 ? 0 : $size,
            $mode,
            min($uid, 07777777),
            min($gid, 07777777),
            $seconds,
            substr($linkTarget, 0, 100),
            substr($uname, 0, 31),
            substr($gname, 0, 31),
        );
        $this->left = $kind === EntryKind::File ? $size : 0;
        $this->padding = (self::BLOCK - ($this->left % self::BLOCK)) % self::BLOCK;

        return $place;
    }

    public function content(string $bytes): void
    {
        $this->left -= strlen($bytes);
        assert($this->left >= 0);
        $this->out->write($bytes);
        if ($this->left === 0 && $this->padding > 0) {
            $this->out->write(str_repeat("\0", $this->padding));
            $this->padding = 0;
        }
    }

    /** The end-of-archive mark, filled up to GNU tar's usual record of 20 blocks. */
    public function end(): void
    {
        $length = 2 * self::BLOCK + $this->out->position();
        $record = 20 * self::BLOCK;
        $this->out->write(str_repeat("\0", 2 * self::BLOCK + (($record - ($length % $record)) % $record)));
        $this->out->finish();
    }

    /** @param  array<string, string>  $records */
    private function extended(string $type, array $records): void
    {
        $bytes = PaxRecords::encode($records);
        $this->header($type, $type === 'g' ? 'GlobalHead' : 'PaxHeaders/entry', strlen($bytes), 0644, 0, 0, 0, '', '', '');
        $this->out->write($bytes.str_repeat("\0", (self::BLOCK - (strlen($bytes) % self::BLOCK)) % self::BLOCK));
    }

    private function header(
        string $type,
        string $name,
        int $size,
        int $mode,
        int $uid,
        int $gid,
        int $mtime,
        string $link,
        string $uname,
        string $gname,
    ): void {
        $block = pack(
            'a100a8a8a8a12a12a8a1a100a6a2a32a32a8a8a155a12',
            $name,
            sprintf("%07o\0", $mode),
            sprintf("%07o\0", $uid),
            sprintf("%07o\0", $gid),
            sprintf("%011o\0", $size),
            sprintf("%011o\0", $mtime),
            '        ',
            $type,
            $link,
            "ustar\0",
            '00',
            $uname,
            $gname,
            "0000000\0",
            "0000000\0",
            '',
            '',
        );
        $sum = 0;
        foreach (count_chars($block, 1) as $byte => $times) {
            $sum += $byte * $times;
        }
        $this->out->write(substr_replace($block, sprintf("%06o\0 ", $sum), 148, 8));
    }

    /** Nanoseconds as decimal seconds. */
    private static function decimal(int $nanoseconds): string
    {
        $whole = intdiv(abs($nanoseconds), 1_000_000_000);
        $part = rtrim(sprintf('%09d', abs($nanoseconds) % 1_000_000_000), '0');

        return ($nanoseconds < 0 ? '-' : '').$whole.($part === '' ? '' : '.'.$part);
    }
}
