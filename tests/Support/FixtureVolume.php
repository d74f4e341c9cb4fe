<?php

declare(strict_types=1);

namespace Tests\Support;

use Closure;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Machine\Disk;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\Volume\FileSystem;
use Kaiseki\Core\Volume\FoundFile;
use Kaiseki\Core\Volume\UnreadableVolume;
use Random\Randomizer;

/** Volumes of tests/Fixtures that Linux wrote, and the listing of what it read of them; and what we read. */
final class FixtureVolume
{
    private const KINDS = ['f' => 'File', 'd' => 'Folder', 'l' => 'Symlink', 'p' => 'Fifo', 'c' => 'CharacterDevice'];

    /** The attributes that guarded() should find: see linux-volume.sh. */
    public const GUARDED = [
        'guarded' => [
            'SCHILY.acl.access' => 'user::rwx,user:70001:r--,group::r-x,group:12:rw-,mask::rwx,other::---',
            'SCHILY.xattr.security.capability' => "\1\0\0\2\0\x20\0\0\0\0\0\0\0\0\0\0\0\0\0\0",
            'SCHILY.xattr.trusted.berth' => 'nine',
        ],
        'shared' => ['SCHILY.acl.default' => 'user::rwx,user:70001:rwx,group::r-x,mask::rwx,other::r-x'],
    ];

    /** Its image, unpacked. */
    public static function unpacked(string $fixture, Scratch $scratch): string
    {
        return $scratch->file('volume.raw', (string) gzdecode((string) file_get_contents(self::file($fixture, 'volume.raw.gz'))));
    }

    /** @return array<string, array<string, string>> attributes of a file and a folder that not everybody may use */
    public static function guarded(FileSystem $volume): array
    {
        $names = array_keys(self::GUARDED);

        return array_combine(
            $names,
            array_map(fn (string $name): array => $volume->child($volume->root(), $name)->extended ?? [], $names),
        );
    }

    public static function file(string $fixture, string $name): string
    {
        return dirname(__DIR__)."/Fixtures/$fixture/$name";
    }

    /**
     * A volume some bytes of which are other ones, and then as they were again, so many times: whatever they are, a look through it ends,
     * gives no large pieces, and says what is wrong in words.
     *
     * @param  Closure(Disk): ?FileSystem  $open
     * @param  Closure(): int  $where  a byte that is to be another one
     */
    public static function withOddBytes(string $image, int $times, int $bytes, Randomizer $random, Closure $open, Closure $where): void
    {
        $sound = (string) file_get_contents($image);
        $file = fopen($image, 'r+b');
        for ($i = 0; $i < $times; $i++) {
            $changed = array_map(fn (): int => $where(), range(1, $bytes));
            foreach ($changed as $at) {
                fseek($file, $at);
                fwrite($file, chr($random->getInt(0, 255)));
            }
            fflush($file);
            try {
                self::lookThrough($open(Disks::raw($image)));
            } catch (UnreadableVolume|UnreadableImage $wrong) {
                expect($wrong->getMessage())->not->toBe('');
            }
            foreach ($changed as $at) {
                fseek($file, $at);
                fwrite($file, $sound[$at]);
            }
        }
        fclose($file);
    }

    private static function lookThrough(?FileSystem $volume): void
    {
        $queue = $volume === null ? [] : [$volume->root()];
        for ($seen = 0; $queue !== [] && $seen < 60; $seen++) {
            foreach ($volume->children(array_shift($queue)) as $file) {
                $queue[] = $file;
                foreach ($volume->content($file) as $j => $piece) {
                    expect(strlen($piece))->toBeLessThanOrEqual(64 << 20);
                    if ($j > 3) {
                        break;
                    }
                }
            }
        }
        $volume?->losses();
    }

    /** @return iterable<string, FoundFile> path => file, a folder before what is in it */
    public static function files(FileSystem $volume, ?FoundFile $folder = null, string $path = ''): iterable
    {
        foreach ($volume->children($folder ?? $volume->root()) as $name => $file) {
            $at = EntryPath::join($path, (string) $name);
            yield $at => $file;
            yield from $file->version->kind === EntryKind::Folder ? self::files($volume, $file, $at) : [];
        }
    }

    /** @return array<string, list<int|string>> path => kind, bytes, time, mode, owner, group, target, SHA-256 */
    public static function found(FileSystem $volume): array
    {
        $found = [];
        foreach (self::files($volume) as $path => $file) {
            $is = $file->version;
            $digest = $is->kind === EntryKind::File ? hash('sha256', implode('', [...$volume->content($file)])) : '';
            $found[$path] = [$is->kind->name, $is->size, $is->mtime, $is->mode, $is->uid, $is->gid, $is->linkTarget, $digest];
        }

        return $found;
    }

    /** @return array<string, list<int|string>> the same, as the listing of a fixture tells it */
    public static function told(string $fixture): array
    {
        $told = [];
        $listing = (string) gzdecode((string) file_get_contents(self::file($fixture, 'listing.tsv.gz')));
        foreach (explode("\n", rtrim($listing, "\n")) as $line) {
            [$path, $kind, $size, $time, $mode, $uid, $gid, $target, $digest] = explode("\t", $line);
            [$seconds, $parts] = explode('.', $time); // find(1) counts the parts from the second on that a time lies in
            $told[$path] = [
                self::KINDS[$kind], $kind === 'f' ? (int) $size : 0, (int) $seconds * 1_000_000_000 + (int) substr($parts, 0, 9),
                (int) octdec($mode), (int) $uid, (int) $gid, $target, $digest,
            ];
        }

        return $told;
    }
}
