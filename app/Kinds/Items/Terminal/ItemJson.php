<?php

declare(strict_types=1);

namespace App\Kinds\Items\Terminal;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemSpan;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Mail\ItemSort;

/** Items as other programs read them. */
final class ItemJson
{
    /**
     * @param  ItemSpan|null  $span  where it lay; null for its newest place
     * @return array<string, mixed>
     */
    public static function of(FoundItem $item, ?ItemSpan $span = null): array
    {
        $span ??= $item->spans === [] ? null : $item->spans[count($item->spans) - 1];

        return [
            'id' => $item->key(),
            'kind' => $item->sort->noun(),
            'mailbox' => $span->mailbox ?? '',
            'folder' => $span->folder ?? '',
            'from' => $item->sender,
            'to' => $item->recipients,
            'subject' => $item->subject,
            ($item->sort->isOfCalendar() ? 'begins_at' : 'sent_at') => self::seconds($item->sentAt),
            'received_at' => self::seconds($span->receivedAt ?? $item->receivedAt),
            'size' => $item->size,
            ($item->sort->isOfFields() ? 'uid' : 'message_id') => $item->messageId,
            'digest' => bin2hex($item->identity),
            'flags' => $span?->flags() ?? '',
            'attachments' => $item->attachments,
            'first' => self::moment($span->first ?? $item->first()),
            'until' => self::moment($span->until ?? $item->until()),
        ] + ($item->details->calendar === null ? [] : [
            'repeats' => $item->details->calendar->repeats,
            'place' => $item->details->calendar->place,
            'exceptions' => $item->details->calendar->exceptions,
        ]);
    }

    /** One line for a person. */
    public static function line(FoundItem $item, ?ItemSpan $span = null): string
    {
        $row = self::of($item, $span);
        $place = $item->details->calendar->place ?? '';
        $who = $item->sort === ItemSort::Message ? $row['from'] : ($place === '' ? $row['to'] : $place);

        return sprintf(
            '%s  %s  %s/%s  %s: %s%s',
            $row['id'],
            $row['begins_at'] ?? $row['received_at'],
            $row['mailbox'],
            $row['folder'],
            mb_strimwidth($who, 0, 40, '…'),
            mb_strimwidth($item->title(), 0, 80, '…'),
            $row['until'] === null ? '' : "  until {$row['until']}",
        );
    }

    private static function seconds(?int $seconds): ?string
    {
        return $seconds === null ? null : gmdate('Y-m-d\TH:i:s\Z', $seconds);
    }

    private static function moment(int $microseconds): ?string
    {
        return $microseconds === PHP_INT_MAX ? null : Instant::ofMicroseconds($microseconds)->iso();
    }
}
