<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Into;

use App\Kinds\Machines\Disks\MachineTree;
use App\Kinds\Machines\Order\CannotBring;
use App\Words;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\GzipMemberWriter;
use Kaiseki\Core\Archive\TarWriter;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Files\LeftOut;
use Kaiseki\Core\Volume\FoundFile;

/**
 * Files of a point on their way into a machine that runs: an archive of them, and two lists by which the machine's own tools compare
 * what came: digests as sha256sum writes them, and mode, owner and time of each.
 */
final class FilesSent
{
    /** Bytes of content; and where no disk can be plugged in: an agent takes about a megabyte a second. */
    private const MOST = 8 << 30;

    public const MOST_BY_AGENT = 256 << 20;

    public int $files = 0;

    public int $bytes = 0;

    /** @var list<LeftOut> */
    public array $leftOut = [];

    /** @var list<string> lines of sha256sum */
    private array $digests = [];

    /** @var list<string> "mode owner group time name", as stat gives them */
    private array $facts = [];

    /** @var array<string, int> folder => its time, in seconds since 1970 */
    private array $folders = [];

    /** @var array<int, string> node => the first of its names */
    private array $linked = [];

    /** @param  list<string>  $paths  of the point */
    public function __construct(private readonly MachineTree $tree, private readonly array $paths)
    {
    }

    /**
     * @param  resource  $out  for the archive
     *
     * @throws CannotBring
     */
    public function writeTo($out): void
    {
        $tar = new TarWriter(new GzipMemberWriter($out));
        foreach ($this->paths as $path) {
            foreach ($this->tree->below($path) as $at => $file) {
                $this->add($tar, (string) $at, EntryPath::split($path)[1].substr((string) $at, strlen($path)), $file);
            }
        }
        $tar->end();
    }

    private function add(TarWriter $tar, string $at, string $name, FoundFile $file): void
    {
        $version = $file->version;
        if (preg_match('/[\\\\\x00-\x1f\x7f]/', $name.$version->linkTarget) === 1) {
            $this->leave($at, 'its name, or what it points to, has a character that is not sent');

            return;
        }
        if (! in_array($version->kind, [EntryKind::File, EntryKind::Folder, EntryKind::Symlink], true)) {
            $this->leave($at, 'it is neither a file, a folder nor a link');

            return;
        }
        $file->extended === [] || $this->leave($at, 'its attributes and ACLs: they do not go by an agent; the rest of it did');
        $first = $version->kind === EntryKind::File && $version->linkGroup > 0 ? $this->linked[$file->node] ?? null : null;
        if ($first !== null) {
            $tar->begin(EntryKind::HardLink, $name, 0, $version->mode, $version->uid, $version->gid, '', '', $version->mtime, $first);
        } else {
            $this->member($tar, $name, $file);
            $version->kind !== EntryKind::File || $this->content($tar, $at, $name, $file);
        }
        $version->kind === EntryKind::Folder || $this->files++;
        $this->facts($name, $file);
    }

    private function leave(string $at, string $because): void
    {
        $this->leftOut[] = new LeftOut($at, $because, false);
    }

    private function member(TarWriter $tar, string $name, FoundFile $file): void
    {
        $of = $file->version;
        $size = $of->kind === EntryKind::File ? $of->size : 0;
        $tar->begin($of->kind, $name, $size, $of->mode, $of->uid, $of->gid, '', '', $of->mtime, (string) $of->linkTarget);
    }

    private function content(TarWriter $tar, string $at, string $name, FoundFile $file): void
    {
        $this->bytes += $file->version->size;
        $this->bytes <= self::MOST || throw CannotBring::because(
            Words::size(self::MOST).' at most are brought into a machine that runs, and this is more: shut the machine down for it.',
        );
        $digest = hash_init('sha256');
        foreach ($this->tree->volumes()[explode('/', $at, 2)[0]]->files?->content($file) ?? [] as $bytes) {
            hash_update($digest, $bytes);
            $tar->content($bytes);
        }
        $this->linked[$file->node] = $name;
        $this->digests[] = hash_final($digest)."  ./$name";
    }

    private function facts(string $name, FoundFile $file): void
    {
        $of = $file->version;
        if ($of->kind === EntryKind::Symlink) {
            $this->facts[] = "link ./$name {$of->linkTarget}"; // whose time not every tool sets
        } else {
            $type = $of->kind === EntryKind::Folder ? 040000 : 0100000;
            $seconds = intdiv($of->mtime, 1_000_000_000) - ($of->mtime % 1_000_000_000 < 0 ? 1 : 0);
            $of->kind !== EntryKind::Folder || $this->folders[$name] = $seconds;
            $this->facts[] = sprintf('%x %d %d %d ./%s', $type | $of->mode, $of->uid, $of->gid, $seconds, $name);
        }
    }

    /** @param  string|null  $now  as stats() has it */
    public function digests(?string $now = null): string
    {
        $lines = $now === null ? $this->digests : array_map(fn (string $line): string => $this->named($line, $now), $this->digests);

        return $lines === [] ? '' : implode("\n", $lines)."\n";
    }

    /** Times of folders, which change when something is put into them: "SECONDS ./NAME", what lies deepest first. */
    public function folderTimes(): string
    {
        krsort($this->folders, SORT_STRING);
        $lines = array_map(fn (int|string $name, int $time): string => "$time ./$name\n", array_keys($this->folders), $this->folders);

        return implode('', $lines);
    }

    /** @param  string|null  $now  what the one thing that was picked is called there; null for as it was */
    public function stats(?string $now = null): string
    {
        $facts = $now === null ? $this->facts : array_map(fn (string $line): string => $this->named($line, $now), $this->facts);
        sort($facts, SORT_STRING);

        return $facts === [] ? '' : implode("\n", $facts)."\n";
    }

    private function named(string $line, string $now): string
    {
        $at = (int) strpos($line, ' ./') + strlen(' ./'); // what stands before it has no dot

        return substr($line, 0, $at).$now.substr($line, $at + strlen($this->tops()[0]));
    }

    /** @return list<string> names of what was picked, that came into the archive */
    public function tops(): array
    {
        $names = array_map(fn (string $path): string => EntryPath::split($path)[1], $this->paths);
        array_unique($names) === $names || throw CannotBring::because('Two of them have one name: bring them one after the other.');

        return $names;
    }
}
