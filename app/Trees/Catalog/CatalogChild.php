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

    /** Why there is a name and nothing of it; null where there is something. */
    public function absence(): ?string
    {
        return match ($this->version->kind) {
            EntryKind::Excluded => 'left out',
            EntryKind::NotStored => 'not stored',
            default => null,
        };
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
