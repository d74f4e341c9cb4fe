<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

use App\Kinds\Items\Catalog\FoundItem;

/** A page on which items are listed and opened: on the worksheet, or by the person whose they are. */
interface ShowsItems
{
    /** The address of the page with other values. */
    public function url(string ...$changes): string;

    /** What stands before "letter", "source" and "part" in the addresses of what an item holds. */
    public function itemUrl(FoundItem $item): string;

    /** In which moments are told. */
    public function zone(): string;

    /** In which days are those of the workload. */
    public function home(): string;

    public function life(FoundItem $item): ?ItemLife;

    /** The view with what can be done with the item that is opened. */
    public function pickView(): string;

    /** The same of one day of a series. */
    public function dayView(): string;
}
