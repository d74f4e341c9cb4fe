<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Models\BackupSet;
use App\Trees\Catalog\CatalogReader;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Files\OrderItems;

/** A selection at a point as the catalog has it: read while it is gone through, however much it is. */
final readonly class CatalogItems implements OrderItems
{
    private CatalogReader $catalog;

    /** @var array<array-key, string> the folders above the paths, the outermost first */
    private array $above;

    /**
     * @param  list<string>  $paths
     * @param  bool  $withAbove  whether the folders above them are part of it
     */
    public function __construct(private BackupSet $point, private array $paths, bool $withAbove = true)
    {
        $this->catalog = new CatalogReader;
        $this->above = $withAbove ? PlannedOrder::foldersAbove($paths, $point) : [];
    }

    public function all(): iterable
    {
        yield from $this->above;
        yield from $this->catalog->entriesBelow($this->point, $this->paths);
    }

    public function has(string $path): bool
    {
        if (isset($this->above[$path])) {
            return true;
        }
        foreach ($this->paths as $selected) {
            if (EntryPath::isWithin($path, $selected)) {
                return $this->catalog->has($this->point, $path);
            }
        }

        return false;
    }
}
