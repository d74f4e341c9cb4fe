<?php

declare(strict_types=1);

namespace App\Kinds\Files\Order;

use App\Models\BackupSet;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Catalog\CatalogSearch;
use App\Trees\Catalog\SearchQuery;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;

/** A list of paths as somebody pasted it: one to a line, or with commas between them. */
final class PastedPaths
{
    private const MOST = 2000;

    /** Guesses cost a search each. */
    private const MOST_GUESSED = 40;

    /** @var list<string> those that are there */
    public array $there = [];

    /** @var array<string, string|null> as it was written => the nearest that is there */
    public array $absent = [];

    public bool $isCut = false;

    public function __construct(string $list, private readonly BackupSet $point)
    {
        $lines = preg_split('/[\r\n]+/', $list) ?: [];
        $this->isCut = count($lines) > self::MOST;
        foreach (array_slice($lines, 0, self::MOST) as $line) {
            $line = trim($line);
            if ($line !== '' && ! $this->take($line)) {
                // A name may hold a comma itself: only a line that is no path is taken apart.
                foreach (str_contains($line, ',') ? array_map(trim(...), explode(',', $line)) : [$line] as $part) {
                    if ($part !== '' && ! $this->take($part)) {
                        $this->absent[$part] = count($this->absent) < self::MOST_GUESSED ? $this->guess($part) : null;
                    }
                }
            }
        }
        $this->there = array_values(array_unique($this->there));
    }

    private function take(string $written): bool
    {
        $path = self::path($written);
        if ($path === null || $path === '' || ! (new CatalogReader)->has($this->point, $path)) {
            return false;
        }
        $this->there[] = $path;

        return true;
    }

    /** As paths are written here; also where it comes from a system with drives and backslashes. */
    private static function path(string $written): ?string
    {
        $written = trim($written, " \t\"'");
        try {
            return EntryPath::of(
                str_contains($written, '/') ? $written : str_replace('\\', '/', preg_replace('/^[A-Za-z]:/', '', $written) ?? $written),
            );
        } catch (UnsafePath) {
            return null;
        }
    }

    private function guess(string $written): ?string
    {
        $path = self::path($written);
        $name = $path === null ? '' : strtr(basename($path), ['*' => '', '?' => '']);
        $best = null;
        $most = 0.0;
        foreach (array_unique([$name, pathinfo($name, PATHINFO_FILENAME), substr($name, 0, max(3, intdiv(strlen($name), 2)))]) as $part) {
            if (mb_strlen($part) < 3) {
                continue;
            }
            foreach (
                (new CatalogSearch)->find(
                    $this->point->workload,
                    new SearchQuery(name: $part, from: $this->point->instant, to: $this->point->instant),
                    200,
                ) as $found
            ) {
                similar_text(mb_strtolower((string) $path), mb_strtolower(mb_scrub($found->path)), $alike);
                [$best, $most] = $alike > $most ? [$found->path, $alike] : [$best, $most];
            }
            if ($best !== null) {
                break;
            }
        }

        return $best;
    }
}
