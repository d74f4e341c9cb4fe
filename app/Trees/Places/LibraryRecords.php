<?php

declare(strict_types=1);

namespace App\Trees\Places;

use App\Models\BackupSet;
use App\Trees\Catalog\CatalogReader;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Library\DocumentRecord;

/** What the libraries in a tree, if there are any, keep of their documents at a point. */
final class LibraryRecords
{
    private readonly CatalogReader $catalog;

    /** @var array<string, bool> folder => whether it is a library */
    private array $are = [];

    public function __construct(private readonly BackupSet $point)
    {
        $this->catalog = new CatalogReader;
    }

    /** Null if there is none, or none that can be read. */
    public function of(string $document): ?DocumentRecord
    {
        $library = $this->libraryOf($document);
        $packed = $library === null ? null : $this->catalog->at($this->point, DocumentRecord::pathOf($document, $library));
        $version = $packed === null ? null : Version::unpack($packed);
        if ($version === null || $version->kind !== EntryKind::File || $version->size > DocumentRecord::LARGEST) {
            return null;
        }
        $stream = OneFile::read($this->point, $version);

        return $stream === null ? null : DocumentRecord::of((string) stream_get_contents($stream, DocumentRecord::LARGEST));
    }

    /** Whether a version of it is there for itself. */
    public function has(string $document, int $version): bool
    {
        $library = $this->libraryOf($document);

        return $library !== null && $this->catalog->has($this->point, DocumentRecord::versionAt($document, $version, $library));
    }

    /** The page on which a version of it is looked at. */
    public function page(string $document, int $version): string
    {
        $path = DocumentRecord::versionAt($document, $version, (string) $this->libraryOf($document));

        return "/sets/{$this->point->id}/look?path=".rawurlencode($path);
    }

    /** The nearest folder above it that is a library; null if none is. */
    private function libraryOf(string $document): ?string
    {
        foreach (DocumentRecord::librariesOf($document) as $folder) {
            if ($this->are[$folder] ??= $this->catalog->has($this->point, DocumentRecord::folderOf($folder))) {
                return $folder;
            }
        }

        return null;
    }

    /**
     * What belongs to some documents, and to those in some folders: their records, and the versions before the present ones.
     *
     * @param  list<string>  $documents
     * @return list<string> paths that are there at the point
     */
    public function beside(array $documents): array
    {
        $beside = [];
        foreach ($documents as $document) {
            $library = $this->libraryOf($document);
            $paths = $library === null ? [] : [
                DocumentRecord::pathOf($document, $library),
                DocumentRecord::recordsOf($document, $library),
                DocumentRecord::versionsOf($document, $library),
            ];
            array_push($beside, ...array_filter($paths, fn (string $path): bool => $this->catalog->has($this->point, $path)));
        }

        return $beside;
    }
}
