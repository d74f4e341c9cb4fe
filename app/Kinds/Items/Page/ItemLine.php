<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemSpan;
use Carbon\CarbonImmutable;
use Kaiseki\Core\Mail\ItemSort;

/** An item as a line of a list: when, who, what, in the words of its sort. */
final readonly class ItemLine
{
    private function __construct(
        public FoundItem $item,
        public ?ItemSpan $span,
        public string $when,
        public string $who,
        /** What stands behind its title: how many attachments, how it repeats. */
        public string $note,
        public bool $isUnread,
        /** Whether it is gone because it says something else now. */
        public bool $isChanged,
    ) {
    }

    /** @param  string  $home  the zone of the workload: a whole day is one of it, wherever it is looked at */
    public static function of(FoundItem $item, ?ItemSpan $span, string $zone, string $home, bool $isChanged = false): self
    {
        $facts = $item->details->calendar;
        $note = match (true) {
            $facts !== null => $facts->repeats,
            $item->sort === ItemSort::Contact => $item->sender,
            default => $item->attachments > 0 ? "+ {$item->attachments}" : '',
        };

        return new self(
            $item,
            $span,
            self::when($item, $span, $zone, $home),
            match (true) {
                $facts !== null => $facts->place !== '' ? $facts->place : $item->recipients,
                $item->sort === ItemSort::Contact => $item->recipients,
                default => $item->sender,
            },
            $note,
            $item->sort === ItemSort::Message && ! str_contains($span?->flags() ?? '', 'S'),
            $isChanged,
        );
    }

    private static function when(FoundItem $item, ?ItemSpan $span, string $zone, string $home): string
    {
        if ($item->details->calendar?->isAllDay === true && $item->sentAt !== null) {
            return CarbonImmutable::createFromTimestamp($item->sentAt, $home)->format('Y-m-d');
        }
        $seconds = $item->sort->isOfCalendar() && $item->sentAt !== null ? $item->sentAt : $span->receivedAt ?? $item->receivedAt;

        return CarbonImmutable::createFromTimestamp($seconds, $zone)->format('Y-m-d H:i');
    }

    /**
     * What the columns of a list of these are called.
     *
     * @param  list<self>  $lines
     * @return array{string, string, string} when, who, what
     */
    public static function columns(array $lines): array
    {
        $sorts = array_unique(array_map(fn (self $line): string => $line->item->sort->value, $lines));
        $sort = count($sorts) === 1 ? ItemSort::from(reset($sorts)) : null;

        return match (true) {
            $sort === ItemSort::Message => ['Received', 'From', 'Subject'],
            $sort === ItemSort::Contact => ['Written', 'Reached by', 'Name'],
            $sort?->isOfCalendar() === true => ['Begins', 'Where, or with whom', 'What'],
            default => ['When', 'Who or where', 'What'],
        };
    }
}
