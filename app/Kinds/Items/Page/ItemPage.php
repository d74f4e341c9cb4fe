<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

/** A page of a list of items. */
final readonly class ItemPage
{
    /**
     * @param  list<ItemLine>  $lines
     * @param  bool  $hasMore  whether there is another one behind it
     */
    public function __construct(public array $lines, public bool $hasMore)
    {
    }

    /** @return array{string, string, string} what stands above when, who and what */
    public function columns(): array
    {
        return ItemLine::columns($this->lines);
    }
}
