<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Closure;
use Generator;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\SparseMember;
use Kaiseki\Core\Archive\TarWriter;
use Kaiseki\Core\Volume\FoundFile;

/** All files of a file system into an archive, for one that is made anew; and a record of each, by which it is compared afterwards. */
final class TreeSender
{
    /** What only its system makes anew: devices, sockets. */
    private const NOT_STORED = [EntryKind::CharacterDevice, EntryKind::BlockDevice, EntryKind::NotStored];

    /** @var array<int, string> node => the first of its names */
    private array $linked = [];

    public int $files = 0;

    /** Things that do not come, of kinds that no archive of ours stores. */
    public int $leftOut = 0;

    /** @param  (Closure(string, FoundFile): ?string)|null  $there  SHA-256 of what is there, '' of no content; null of what is not */
    public function __construct(
        private readonly SentTree $from,
        private readonly TreeRecord $record,
        private readonly ?Closure $there = null,
    ) {
    }

    /** Whether an archive of ours stores it. */
    public static function isStored(FoundFile $file): bool
    {
        return ! in_array($file->version->kind, self::NOT_STORED, true);
    }

    /**
     * @param  Closure(int, int): void  $advanced  told files and bytes
     *
     * @throws \Kaiseki\Core\Volume\UnreadableVolume|\Kaiseki\Core\Machine\UnreadableImage
     */
    public function pour(TarWriter $tar, Closure $advanced): void
    {
        $this->add($tar, TreeRecord::TOP, $this->from->root(), $advanced);
        foreach ($this->from->entries() as $path => $file) {
            if (! self::isStored($file)) {
                $this->leftOut++;

                continue;
            }
            $this->add($tar, (string) $path, $file, $advanced);
        }
        $tar->end();
    }

    /** @param  Closure(int, int): void  $advanced */
    private function add(TarWriter $tar, string $path, FoundFile $file, Closure $advanced): void
    {
        $of = $file->version;
        $first = $of->kind === EntryKind::File && $of->linkGroup > 0 ? $this->linked[$file->node] ?? null : null;
        $there = $this->there === null ? null : ($this->there)($path, $file);
        $digest = match (true) {
            $there === null => $this->send($tar, $path, $file, $first, $advanced),
            default => $first === null ? $there : '',
        };
        if ($first === null && $of->kind === EntryKind::File && $of->linkGroup > 0) {
            $this->linked[$file->node] = $path;
        }
        $this->record->add($path, $file, $digest, $first);
        $this->files++;
        $advanced(1, 0);
    }

    /**
     * @param  string|null  $first  another name of the same file, under which its content was sent
     * @param  Closure(int, int): void  $advanced
     * @return string SHA-256 of its content; '' where it has none, or none was sent
     */
    private function send(TarWriter $tar, string $path, FoundFile $file, ?string $first, Closure $advanced): string
    {
        $of = $file->version;
        $kind = $first === null ? $of->kind : EntryKind::HardLink;
        $holes = $kind === EntryKind::File && $of->sparse ? $this->holes($file) : null;
        $tar->begin(
            $kind,
            $path,
            $kind === EntryKind::File ? $holes?->stored() ?? $of->size : 0,
            $of->mode,
            $of->uid,
            $of->gid,
            '',
            '',
            $of->mtime,
            $first ?? (string) $of->linkTarget,
            null,
            ($first === null ? $file->extended : []) + ($holes?->records($path) ?? []),
        );

        return $kind === EntryKind::File ? $this->content($tar, $file, $holes, $advanced) : '';
    }

    /** Where a file has holes: what is made anew is no larger than what was in use. */
    private function holes(FoundFile $file): SparseMember
    {
        $holes = new SparseMember;
        foreach ($this->from->content($file) as $bytes) {
            $holes->look($bytes);
        }
        $holes->seen();

        return $holes;
    }

    /**
     * @param  Closure(int, int): void  $advanced
     * @return string SHA-256 of all of it, holes too
     */
    private function content(TarWriter $tar, FoundFile $file, ?SparseMember $holes, Closure $advanced): string
    {
        $hash = hash_init('sha256');
        $all = function () use ($file, $hash): Generator {
            foreach ($this->from->content($file) as $bytes) {
                hash_update($hash, $bytes);
                yield $bytes;
            }
        };
        $holes === null || $tar->content($holes->map());
        foreach ($holes === null ? $all() : $holes->parts($all()) as $bytes) {
            $tar->content($bytes);
            $advanced(0, strlen($bytes));
        }

        return hash_final($hash);
    }
}
