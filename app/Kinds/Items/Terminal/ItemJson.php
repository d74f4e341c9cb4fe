<?php

declare(strict_types=1);

namespace App\Kinds\Items\Terminal;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemSpan;
use Kaiseki\Core\Instant;

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
            'mailbox' => $span->mailbox ?? '',
            'folder' => $span->folder ?? '',
            'from' => $item->sender,
            'subject' => $item->subject,
            'sent_at' => self::seconds($item->sentAt),
            'received_at' => self::seconds($span->receivedAt ?? $item->receivedAt),
            'size' => $item->size,
            'message_id' => $item->messageId,
            'digest' => bin2hex($item->identity),
            'flags' => $span?->flags() ?? '',
            'attachments' => $item->attachments,
            'first' => self::moment($span->first ?? $item->first()),
            'until' => self::moment($span->until ?? $item->until()),
        ];
    }

    /** One line for a person. */
    public static function line(FoundItem $item, ?ItemSpan $span = null): string
    {
        $row = self::of($item, $span);

        return sprintf(
            '%s  %s  %s/%s  %s: %s%s',
            $row['id'],
            $row['received_at'],
            $row['mailbox'],
            $row['folder'],
            mb_strimwidth($row['from'], 0, 40, '…'),
            $row['subject'] === '' ? '(no subject)' : mb_strimwidth($row['subject'], 0, 80, '…'),
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
