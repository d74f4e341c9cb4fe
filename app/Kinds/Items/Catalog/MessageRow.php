<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use Kaiseki\Core\Mail\Attachment;
use Kaiseki\Core\Mail\ItemField;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\Message;

/** What the catalog says of a message. */
final class MessageRow
{
    /** @param  int  $receivedAt  seconds since 1970 */
    public static function of(string $bytes, string $identity, int $receivedAt): ItemRow
    {
        $message = Message::of($bytes);
        [$from, $to, $cc] = [$message->from(), $message->to(), $message->copiedTo()];
        $attachments = $message->attachments();
        $names = implode(' ', array_map(fn (Attachment $of): string => $of->name, $attachments));

        return new ItemRow(
            ItemSort::Message,
            $identity,
            $message->messageId(),
            $message->references()[0] ?? '',
            $message->subject(),
            ItemRow::words($from),
            ItemRow::words([...$to, ...$cc]),
            $message->sentAt(),
            $receivedAt,
            strlen($bytes),
            count($attachments),
            ItemDetails::of($to, $cc, $attachments, $message->wrong),
            [
                ItemField::From->value => ItemRow::words($from),
                ItemField::To->value => ItemRow::words($to),
                ItemField::Cc->value => ItemRow::words($cc),
                ItemField::Subject->value => $message->subject(),
                ItemField::Name->value => $names,
            ],
        );
    }
}
