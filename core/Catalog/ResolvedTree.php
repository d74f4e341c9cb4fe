<?php

declare(strict_types=1);

namespace Kaiseki\Core\Catalog;

final readonly class ResolvedTree
{
    public function __construct(
        public Tree $tree,
        /** @var list<string> named as unchanged, but not in the base */
        public array $unresolved,
        /** @var list<string> named as stored, but not in the archive */
        public array $notStored,
        /** @var list<string> folders of which the archive tells only that they were there */
        public array $lostFolders,
        /** Whether the archive tells which entries each folder had, and so what was deleted. */
        public bool $hasFolderRecords,
    ) {
    }
}
