<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemSpan;
use Carbon\CarbonImmutable;

/** An item of a selection, as it lay in one folder at the point. */
final readonly class ChosenItem
{
    /**
     * @param  string  $instance  of a series that one instance only, see CalendarTime::key(); '' for the whole
     * @param  string  $zone  in which its day is named
     */
    public function __construct(public FoundItem $item, public ItemSpan $span, public string $instance = '', private string $zone = 'UTC')
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
        return bin2hex($this->item->identity)."\0{$this->span->mailbox}\0{$this->span->folder}".
            ($this->instance === '' ? '' : "\0{$this->instance}");
    }

    /** What a person calls it. */
    public function title(): string
    {
        return $this->item->title().($this->instance === '' ? '' : ", {$this->day()}");
    }

    /** When the series has its one instance; '' for the whole. */
    public function day(): string
    {
        if (strlen($this->instance) === 8) {
            return CarbonImmutable::parse($this->instance, 'UTC')->format('D j M Y');
        }

        return $this->instance === ''
            ? ''
            : CarbonImmutable::parse($this->instance, 'UTC')->setTimezone($this->zone)->format('D j M Y H:i');
    }
}
