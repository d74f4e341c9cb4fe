<?php

declare(strict_types=1);

namespace App\Kinds;

/** Something that putting a run back does not touch, such as what somebody has changed since; and why. */
final readonly class LeftAsIs
{
    /** @param  string  $path  what it is, in UTF-8: a path, a disk, a machine */
    public function __construct(public string $path, public string $because)
    {
    }

    /**
     * @param  list<self>  $some
     * @return list<array{path: string, because: string}> as outcomes and documents keep them
     */
    public static function kept(array $some): array
    {
        return array_map(fn (self $one): array => get_object_vars($one), $some);
    }

    public function told(): string
    {
        return "left as it is: $this->path: $this->because";
    }
}
