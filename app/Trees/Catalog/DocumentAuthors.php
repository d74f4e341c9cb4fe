<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

use App\Models\Workload;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Catalog\NameList;
use Kaiseki\Core\Library\DocumentRecord;

/**
 * Who wrote a document, or a version of it, as the library that a tree is says (docs/decisions/0045-documents.md): looked for in its
 * records, which lie among the texts.
 */
final class DocumentAuthors
{
    private const AT_ONCE = 500;

    /** @var array<string, list<array{int, int}>> document => spans in which its record names the author, first to until in microseconds */
    private array $spans = [];

    /** @param  list<FoundVersion>  $records  versions of the records of the tree */
    public function __construct(array $records, string $author)
    {
        $author = NameList::folded($author);
        foreach (array_chunk($records, self::AT_ONCE) as $some) {
            $texts = self::texts($some);
            foreach ($some as $record) {
                $document = DocumentRecord::documentOf($record->path);
                $text = $texts[(string) $record->version->digest] ?? null;
                if ($document !== null && $text !== null && self::names($text, $author)) {
                    $this->spans[$document][] = [$record->first, $record->until];
                }
            }
        }
    }

    /**
     * Versions of the documents that were there while their record named the author.
     *
     * @return iterable<FoundVersion> by path, the newest of each first
     */
    public function documents(Workload $workload): iterable
    {
        ksort($this->spans, SORT_STRING);
        $catalog = new CatalogReader;
        foreach ($this->spans as $document => $spans) {
            foreach (array_reverse($catalog->versionsOf($workload, (string) $document)) as $version) {
                $isThen = fn (array $span): bool => $version->first < $span[1] && $version->until > $span[0];
                if (array_filter($spans, $isThen) !== []) {
                    yield $version;
                }
            }
        }
    }

    /** @param  string  $author  folded */
    private static function names(string $text, string $author): bool
    {
        $record = DocumentRecord::of($text);
        foreach ($record?->authors() ?? [] as $name) {
            if (str_contains(NameList::folded($name), $author)) {
                return true;
            }
        }

        return false;
    }

    /**
     * @param  list<FoundVersion>  $records
     * @return array<string, string> digest => text
     */
    private static function texts(array $records): array
    {
        $digests = array_values(array_unique(array_filter(array_map(
            fn (FoundVersion $record): string => (string) $record->version->digest,
            $records,
        ), fn (string $digest): bool => $digest !== '')));
        if ($digests === []) {
            return [];
        }
        $rows = DB::select(
            'SELECT digest, words FROM texts WHERE words IS NOT NULL AND digest IN ('.implode(',', array_fill(0, count($digests), '?')).')',
            $digests,
        );

        return array_column($rows, 'words', 'digest');
    }
}
