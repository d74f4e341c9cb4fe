<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

/** By what the children of a folder are put in order. */
enum ChildOrder: string
{
    case Name = 'name';
    case Files = 'files';
    case Size = 'size';
    case Changed = 'changed';
    case Mode = 'mode';

    /** Whether folders count with what is below them. */
    public function isOfTotals(): bool
    {
        return $this === self::Files || $this === self::Size;
    }

    public function column(): string
    {
        return match ($this) {
            self::Changed => 'v.mtime',
            self::Mode => 'SUBSTRING(v.attributes, 1, 4)',
            default => 'p.name',
        };
    }
}
