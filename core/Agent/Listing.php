<?php

declare(strict_types=1);

namespace Kaiseki\Core\Agent;

use Kaiseki\Core\Archive\ByteStream;
use Kaiseki\Core\Archive\DecimalSeconds;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;
use Kaiseki\Core\Files\Status;

/**
 * All that an agent found on its machine, as find(1) tells it: '%y %m %U %G %s %T@ %C@ %i %D %n %b %u %g', the path and where a link
 * leads, each ended by a NUL byte. Held by folders, packed: about as many bytes as it came in.
 */
final class Listing
{
    private const FIELDS =
        '/^([a-zA-Z]) ([0-7]{1,4}) (\d{1,10}) (\d{1,10}) (\d{1,18}) (-?\d{1,12}\.\d{1,12}) (-?\d{1,12}\.\d{1,12}) (\d{1,19}) (\d{1,19}) '.
        '(\d{1,9}) (\d{1,16}) (\S{1,100}) (\S{1,100})$/D';

    private const TYPES = ['f' => Status::FILE, 'd' => Status::FOLDER, 'l' => Status::SYMLINK, 'p' => Status::FIFO];

    private const CHUNK = 262_144;

    /** Longer than three fields can be: what has no end in so many bytes is none. */
    private const LONGEST = 32_768;

    /** @var array<array-key, string> folder => number, fields, name and link of each that lies in it, each ended by a NUL byte */
    private array $folders = [];

    private ?string $top = null;

    /** Folders that are held unpacked: those on the way down, and some. */
    private const IN_HAND = 64;

    /** @var array<array-key, array<array-key, list<string>>> folder => name => number, fields and link; the one asked last comes last */
    private array $inHand = [];

    private int $count = 0;

    private function __construct()
    {
    }

    /**
     * @throws UnreadableListing|\Kaiseki\Core\Archive\UnreadableArchive
     */
    public static function read(ByteStream $from): self
    {
        $list = new self;
        $rest = '';
        while (($more = $from->read(self::CHUNK)) !== '') {
            $parts = explode("\0", $rest.$more);
            $whole = intdiv(count($parts) - 1, 3) * 3;
            for ($i = 0; $i < $whole; $i += 3) {
                $list->add($parts[$i], $parts[$i + 1], $parts[$i + 2]);
            }
            $rest = implode("\0", array_slice($parts, $whole));
            strlen($rest) <= self::LONGEST || throw UnreadableListing::at($list->count + 1, 'it has no end');
        }
        $rest === '' || throw UnreadableListing::at($list->count + 1, 'it ends early');

        return $list;
    }

    private function add(string $fields, string $path, string $link): void
    {
        $number = ++$this->count;
        preg_match(self::FIELDS, $fields) === 1 || throw UnreadableListing::at($number, 'it is not as find tells it');
        $inner = str_starts_with($path, './') ? substr($path, 2) : ($path === '.' ? '' : null);
        try {
            $inner !== null && EntryPath::of($inner) === $inner || throw UnreadableListing::at($number, 'its path is none below the top');
        } catch (UnsafePath $unsafe) {
            throw UnreadableListing::at($number, $unsafe->getMessage());
        }
        if ($inner === '') {
            $this->top = "$number\0$fields\0\0$link\0";

            return;
        }
        [$folder, $name] = EntryPath::split($inner);
        $this->folders[$folder] = ($this->folders[$folder] ?? '')."$number\0$fields\0$name\0$link\0";
    }

    public function count(): int
    {
        return $this->count;
    }

    /** @return list<string> */
    public function names(string $folder): array
    {
        return array_map(strval(...), array_keys($this->of($folder)));
    }

    /** Null if nothing of that path was found. */
    public function at(string $path): ?ListedEntry
    {
        [$folder, $name] = EntryPath::split($path);
        $found = $path === '' ? self::unpack((string) $this->top)[''] ?? null : $this->of($folder)[$name] ?? null;

        return $found === null ? null : self::entry(...$found);
    }

    /** @return array<array-key, list<string>> */
    private function of(string $folder): array
    {
        $entries = $this->inHand[$folder] ?? self::unpack($this->folders[$folder] ?? '');
        unset($this->inHand[$folder]);
        $this->inHand[$folder] = $entries;
        if (count($this->inHand) > self::IN_HAND) {
            unset($this->inHand[array_key_first($this->inHand)]);
        }

        return $entries;
    }

    /**
     * What is told twice, as where another file system is mounted, is as it was told last.
     *
     * @return array<array-key, list<string>>
     */
    private static function unpack(string $packed): array
    {
        $entries = [];
        foreach (array_chunk($packed === '' ? [] : explode("\0", substr($packed, 0, -1)), 4) as [$number, $fields, $name, $link]) {
            $entries[$name] = [$number, $fields, $link];
        }

        return $entries;
    }

    private static function entry(string $number, string $fields, string $link): ListedEntry
    {
        preg_match(self::FIELDS, $fields, $m);
        [, $type, $mode, $uid, $gid, $size, $mtime, $ctime, $inode, $device, $links, $blocks, $user, $group] = $m;

        return new ListedEntry(
            (int) $number,
            new Status(
                self::TYPES[$type] ?? 0,
                (int) octdec($mode),
                (int) $size,
                DecimalSeconds::nanoseconds($mtime),
                DecimalSeconds::nanoseconds($ctime),
                (int) $uid,
                (int) $gid,
                (int) $links,
                (int) $inode,
                (int) $device,
                (int) $blocks * 512,
            ),
            $link,
            $user === $uid ? '' : $user,
            $group === $gid ? '' : $group,
        );
    }
}
