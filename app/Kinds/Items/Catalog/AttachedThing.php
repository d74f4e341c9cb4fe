<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

/** Something that came with a message, as the catalog names it. */
final readonly class AttachedThing
{
    public function __construct(public string $name, public string $type, public int $size)
    {
    }
}
