<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

/** A folder of a live tree, with what lies directly in it. */
final readonly class SourceFolder
{
    /**
     * @param  list<SourceEntry>  $entries
     * @param  list<string>  $leftOut  names in it that are left out, with whatever is in them
     */
    public function __construct(public string $path, public array $entries, public array $leftOut)
    {
    }
}
