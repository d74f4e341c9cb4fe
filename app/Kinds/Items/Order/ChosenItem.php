<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemSpan;

/** An item of a selection, as it lay in one folder at the point. */
final readonly class ChosenItem
{
    public function __construct(public FoundItem $item, public ItemSpan $span)
    {
    }

    /** Seconds since 1970. */
    public function receivedAt(): int
    {
        return $this->span->receivedAt ?? $this->item->receivedAt;
    }

    /** The same for the same message of the same folder, whichever of its copies there it is. */
    public function key(): string
    {
        return bin2hex($this->item->identity)."\0{$this->span->mailbox}\0{$this->span->folder}";
    }
}
