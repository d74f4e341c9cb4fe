<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Catalog\Version;

/** A file, folder or link of a volume. */
final readonly class FoundFile
{
    /** @param  array<string, string>  $extended  its attributes, as TarEntry::$extended has them */
    public function __construct(
        /** The number by which the volume knows it. */
        public int $node,
        /** What it is; the digest of its content is not known. */
        public Version $version,
        public array $extended = [],
    ) {
    }

    /** What it is, with who may do what with it beyond its mode. */
    public function listed(): Version
    {
        $list = $this->extended === [] ? '' : AccessList::textOfMember($this->extended);

        return $list === '' ? $this->version : new Version(...['access' => $list] + get_object_vars($this->version));
    }
}
