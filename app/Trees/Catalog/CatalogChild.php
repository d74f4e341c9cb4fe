<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;

/** One line of a folder as it is browsed. */
final readonly class CatalogChild
{
    public function __construct(
        public string $name,
        public string $path,
        public Version $version,
        /** Of a folder: what is below it. */
        public int $files,
        public int $bytes,
    ) {
    }

    public function isFolder(): bool
    {
        return $this->version->kind === EntryKind::Folder;
    }

    public function size(): int
    {
        return $this->isFolder() ? $this->bytes : max(0, $this->version->size);
    }
}
