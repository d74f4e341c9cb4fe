<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Order\CannotBring;
use App\Models\BackupSet;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Places\PointContents;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\SpooledContent;
use Kaiseki\Core\Metal\SentTree;
use Kaiseki\Core\Volume\FoundFile;

/** The files of one file system of a machine that sent itself: those below where it was mounted, but not what was mounted there in turn. */
final class InsideTree implements SentTree
{
    /** From so many bytes on it is looked whether a file has holes: no set says it. */
    private const MAY_HAVE_HOLES = 1 << 20;

    /** @var array{string, SpooledContent}|null the digest and the content that was read last: a file with holes is read twice */
    private ?array $last = null;

    /**
     * @param  list<string>  $within  where others were mounted
     * @param  array<string, array<string, string>>  $attributes  path => attributes
     */
    public function __construct(
        private readonly BackupSet $set,
        private readonly string $at,
        private readonly array $within,
        private readonly array $attributes,
        private readonly PointContents $contents,
    ) {
    }

    public function root(): FoundFile
    {
        $packed = (new CatalogReader)->at($this->set, $this->at);
        $version = $packed === null ? new Version(EntryKind::Folder, 0, 0, null, 0755, 0, 0, '', '') : Version::unpack($packed);

        return new FoundFile(0, $version, $this->attributes[$this->at === '' ? '.' : $this->at] ?? []);
    }

    public function entries(): iterable
    {
        // All of them first: while the catalog is read, nothing else can be asked of the database.
        foreach (iterator_to_array((new CatalogReader)->entriesBelow($this->set, [$this->at])) as $path => $packed) {
            $path = (string) $path;
            $below = $this->at === '' ? $path : substr($path, strlen($this->at) + 1);
            if ($path === $this->at || $this->isElsewhere($path)) {
                continue;
            }
            $version = Version::unpack($packed);
            $mayHaveHoles = $version->size >= self::MAY_HAVE_HOLES;

            yield $below => new FoundFile(
                $version->linkGroup,
                $mayHaveHoles ? new Version(...['sparse' => true] + get_object_vars($version)) : $version,
                $this->attributes[$path] ?? [],
            );
        }
    }

    private function isElsewhere(string $path): bool
    {
        foreach ($this->within as $other) {
            if ($path !== $other && EntryPath::isWithin($path, $other)) {
                return true;
            }
        }

        return false;
    }

    public function content(FoundFile $file): iterable
    {
        $digest = (string) $file->version->digest;
        if ($this->last === null || $this->last[0] !== $digest) {
            $content = $this->contents->of($file->version) ?? throw CannotBring::because(
                'A content with the digest '.Shown::name(bin2hex($digest)).' is in no archive that can be read.',
            );
            $this->last = [$digest, $content];
        }

        return $this->last[1]->pieces();
    }
}
