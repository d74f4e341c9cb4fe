<?php

declare(strict_types=1);

namespace Kaiseki\Core\Agent;

use Closure;
use Generator;
use Kaiseki\Core\Archive\ByteStream;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\TarEntry;
use Kaiseki\Core\Archive\TarReader;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Files\Look;
use Kaiseki\Core\Files\Seen;
use Kaiseki\Core\Files\SpooledContent;
use Kaiseki\Core\Files\Status;

/**
 * The files of a machine on which an agent runs: what stands there by its list, and their contents as one archive, asked for once, of
 * all that are wanted and in that order. Nothing is looked at twice: a file is as it was when its content was read.
 */
final class ListedFolder implements Look
{
    /** Bytes of a content that is handed over at once. */
    private const AT_ONCE = 1 << 20;

    /** @var array{string, SpooledContent}|null a larger one: its path and its content */
    private ?array $held = null;

    /**
     * @param  Closure(list<int>): ByteStream  $send  what an agent is asked for by the numbers of its list, as an archive
     */
    public function __construct(
        private readonly string $label,
        private readonly Listing $list,
        private readonly Closure $send,
    ) {
    }

    public function label(): string
    {
        return $this->label;
    }

    public function status(string $path): ?Status
    {
        return $this->list->at($path)?->status;
    }

    public function names(string $path): array
    {
        return $this->list->names($path);
    }

    public function readLink(string $path): string
    {
        return $this->list->at($path)->link ?? '';
    }

    /** It is not asked of an agent: what it sends has the list with it. */
    public function access(string $path, bool $isFolder): ?string
    {
        return null;
    }

    public function many(iterable $asked): iterable
    {
        $paths = $numbers = $linked = [];
        $wanted = '';
        foreach ($asked as [$path, $want]) {
            $paths[] = $path;
            $entry = ($want & Seen::BYTES) === 0 ? null : $this->list->at($path);
            $isFirst = $entry?->linked() === null || ! isset($linked[$entry->linked()]);
            $isWanted = $entry !== null && $entry->status->type === Status::FILE && $isFirst;
            if ($isWanted) {
                $numbers[] = $entry->number;
                $entry->linked() === null || $linked[$entry->linked()] = true;
            }
            $wanted .= $isWanted ? '1' : '0';
        }
        unset($linked);
        yield from $numbers === [] ? $this->listed($paths) : $this->sent($paths, $wanted, new TarReader(($this->send)($numbers)));
    }

    /**
     * @param  list<string>  $paths
     * @return Generator<Seen>
     */
    private function listed(array $paths): Generator
    {
        foreach ($paths as $path) {
            yield $this->seen($path, $this->list->at($path));
        }
    }

    /**
     * @param  list<string>  $paths
     * @param  string  $wanted  '1' for each whose content is sent, '0' for another
     * @return Generator<Seen>
     */
    private function sent(array $paths, string $wanted, TarReader $tar): Generator
    {
        $next = $tar->next();
        foreach ($paths as $i => $path) {
            $entry = $this->list->at($path);
            if ($wanted[$i] === '0' || $entry === null) {
                yield $this->seen($path, $entry);
            } elseif ($next === null || EntryPath::of($next->path) !== $path) {
                yield new Seen($path, null); // gone, or not to be read
            } elseif ($next->kind !== EntryKind::File) {
                $next = $tar->next(); // something else by now

                yield new Seen($path, null);
            } else {
                yield $this->content($path, $entry, $next, $tar);
                $next = $tar->next();
            }
        }
        $next === null || throw UnreadableListing::unasked(Shown::name($next->path));
    }

    private function content(string $path, ListedEntry $entry, TarEntry $member, TarReader $tar): Seen
    {
        $content = new SpooledContent;
        $tar->content($member, $content);
        $was = $entry->status;
        $isSmall = $member->size <= self::AT_ONCE;
        $this->held = $isSmall ? null : [$path, $content];

        return new Seen(
            $path,
            new Status(
                Status::FILE, $member->mode, $member->size, $member->mtime, $was->ctime, $member->uid, $member->gid, $was->links,
                $was->inode, $was->device, $was->allotted,
            ),
            bytes: $isSmall ? (string) stream_get_contents($content->rewound()) : null,
            owner: [$entry->uname, $entry->gname],
            extended: $member->extended,
        );
    }

    private function seen(string $path, ?ListedEntry $entry): Seen
    {
        return new Seen($path, $entry?->status, $entry->link ?? '', owner: [$entry->uname ?? '', $entry->gname ?? '']);
    }

    public function read(string $path)
    {
        return $this->held !== null && $this->held[0] === $path ? $this->held[1]->rewound() : null;
    }

    /** It is not asked of an agent. */
    public function digest(string $path, ?int $size = null): ?string
    {
        return null;
    }

    public function freeBytes(): int
    {
        return PHP_INT_MAX;
    }

    public function openForWriting(string $path): ?string
    {
        return null;
    }

    public function timeStep(): int
    {
        return 1;
    }
}
