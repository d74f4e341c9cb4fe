<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Models\BackupSet;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Places\PointContents;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Volume\FileSystem;
use Kaiseki\Core\Volume\FoundFile;
use Kaiseki\Core\Volume\UnreadableVolume;

/** The files of a point of which the catalog knows, looked into as a volume is. */
final class PointFiles implements FileSystem
{
    /** Names of one folder that are looked at. */
    private const MOST = 20_000;

    /** @var list<string> node => path */
    private array $paths = [''];

    public function __construct(private readonly BackupSet $set, private readonly PointContents $contents)
    {
    }

    public function type(): string
    {
        return 'files';
    }

    public function label(): string
    {
        return '';
    }

    public function losses(): array
    {
        return [];
    }

    public function root(): FoundFile
    {
        return new FoundFile(0, new Version(EntryKind::Folder, 0, 0, null, 0755, 0, 0, '', ''));
    }

    public function children(FoundFile $folder): iterable
    {
        $found = [];
        foreach ((new CatalogReader)->children($this->set, $this->paths[$folder->node], limit: self::MOST) as $child) {
            $found[$child->name] = $this->found($child->path, $child->version);
        }

        return $found;
    }

    public function child(FoundFile $folder, string $name): ?FoundFile
    {
        $path = EntryPath::join($this->paths[$folder->node], $name);
        $packed = (new CatalogReader)->at($this->set, $path);

        return $packed === null ? null : $this->found($path, Version::unpack($packed));
    }

    public function content(FoundFile $file): iterable
    {
        $content = $this->contents->of($file->version) ?? throw UnreadableVolume::because('has a content that is in no archive');

        return $content->pieces();
    }

    private function found(string $path, Version $version): FoundFile
    {
        $this->paths[] = $path;

        return new FoundFile(count($this->paths) - 1, $version);
    }
}
