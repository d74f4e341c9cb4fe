<?php

declare(strict_types=1);

namespace App\Trees\Places;

use App\Models\BackupSet;
use App\Trees\Catalog\CatalogReader;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Library\DocumentRecord;

/** What the library that a tree is, if it is one, keeps of its documents at a point. */
final readonly class LibraryRecords
{
    private CatalogReader $catalog;

    public function __construct(private BackupSet $point)
    {
        $this->catalog = new CatalogReader;
    }

    /** Null if there is none, or none that can be read. */
    public function of(string $document): ?DocumentRecord
    {
        $packed = $this->catalog->at($this->point, DocumentRecord::pathOf($document));
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
        return $this->catalog->has($this->point, DocumentRecord::versionAt($document, $version));
    }

    /** The page on which a version of it is looked at. */
    public function page(string $document, int $version): string
    {
        return "/sets/{$this->point->id}/look?path=".rawurlencode(DocumentRecord::versionAt($document, $version));
    }

    /**
     * What belongs to some documents: their records, and the versions before the present ones.
     *
     * @param  list<string>  $documents
     * @return list<string> paths that are there at the point
     */
    public function beside(array $documents): array
    {
        $beside = [];
        foreach ($documents as $document) {
            foreach ([DocumentRecord::pathOf($document), DocumentRecord::versionsOf($document)] as $path) {
                if ($document !== '' && $this->catalog->has($this->point, $path)) {
                    $beside[] = $path;
                }
            }
        }

        return $beside;
    }
}
