<?php

declare(strict_types=1);

namespace Kaiseki\Core\Library;

use InvalidArgumentException;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Instant;

/**
 * What a library of documents knows of one beside its content, from a JSON file beside it: of "Charts/Bar.md" the record is
 * ".library/documents/Charts/Bar.md.json" ({"title", "author", "version", "versions": [{"version", "author", "saved_at", "remark"}]}),
 * and version 2 of it lies at ".library/versions/Charts/Bar.md/2.md" (docs/decisions/0045-documents.md). All of it is somebody's word.
 */
final readonly class DocumentRecord
{
    /** Bytes of a record that are read. */
    public const LARGEST = 262_144;

    private const FOLDER = '.library';

    private const LONGEST = 300;

    private const MOST = 500;

    /** @param  list<DocumentVersion>  $versions  the newest first */
    private function __construct(public string $title, public string $author, public ?int $version, public array $versions)
    {
    }

    /** Null if it is none. */
    public static function of(string $json): ?self
    {
        $read = json_decode($json, true, 8);
        if (! is_array($read) || ! is_string($read['title'] ?? null)) {
            return null;
        }
        $versions = [];
        foreach (array_slice(is_array($read['versions'] ?? null) ? $read['versions'] : [], 0, self::MOST) as $one) {
            if (is_array($one) && is_int($one['version'] ?? null) && $one['version'] > 0) {
                $versions[$one['version']] = new DocumentVersion(
                    $one['version'],
                    self::text($one['author'] ?? null),
                    self::instant($one['saved_at'] ?? null),
                    self::text($one['remark'] ?? null),
                );
            }
        }
        krsort($versions);

        return new self(
            self::text($read['title']),
            self::text($read['author'] ?? null),
            is_int($read['version'] ?? null) ? $read['version'] : null,
            array_values($versions),
        );
    }

    /** @return list<string> who wrote it, or a version of it */
    public function authors(): array
    {
        $names = [$this->author, ...array_map(fn (DocumentVersion $version): string => $version->author, $this->versions)];

        return array_values(array_unique(array_filter($names, fn (string $name): bool => $name !== '')));
    }

    /** Of which document a file would be the record, wherever in a tree the library lies; null of none. */
    public static function documentOf(string $record): ?string
    {
        $isOne = preg_match('~^((?:.*?/)?)'.preg_quote(self::FOLDER, '~').'/documents/(.+)\.json$~Ds', $record, $found) === 1;

        return $isOne ? $found[1].$found[2] : null;
    }

    /** Where the record of a document lies. */
    public static function pathOf(string $document, string $library = ''): string
    {
        return self::recordsOf($document, $library).'.json';
    }

    /** The folder in which the records of what is in a folder lie. */
    public static function recordsOf(string $folder, string $library = ''): string
    {
        return self::inLibrary('documents', $folder, $library);
    }

    /** The folder in which its versions before the present one lie. */
    public static function versionsOf(string $document, string $library = ''): string
    {
        return self::inLibrary('versions', $document, $library);
    }

    public static function versionAt(string $document, int $number, string $library = ''): string
    {
        $ending = pathinfo($document, PATHINFO_EXTENSION);

        return self::versionsOf($document, $library)."/$number".($ending === '' ? '' : ".$ending");
    }

    /** Where a library keeps what it keeps, if a folder is one. */
    public static function folderOf(string $library): string
    {
        return EntryPath::join($library, self::FOLDER);
    }

    /** @return list<string> folders that would be the library of a document, the nearest first */
    public static function librariesOf(string $document): array
    {
        $folders = [];
        for ($path = $document; $path !== '';) {
            [$path] = EntryPath::split($path);
            $folders[] = $path;
        }

        return $folders;
    }

    private static function inLibrary(string $what, string $path, string $library): string
    {
        $within = $library === '' ? $path : substr($path, strlen($library) + 1);

        return self::folderOf($library)."/$what/$within";
    }

    private static function text(mixed $value): string
    {
        return is_string($value) ? mb_substr(mb_scrub($value), 0, self::LONGEST) : '';
    }

    private static function instant(mixed $value): ?Instant
    {
        try {
            return is_string($value) ? Instant::parse($value) : null;
        } catch (InvalidArgumentException) {
            return null;
        }
    }
}
