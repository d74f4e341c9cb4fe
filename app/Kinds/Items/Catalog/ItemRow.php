<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Mail\Attachment;
use Kaiseki\Core\Mail\ItemField;
use Kaiseki\Core\Mail\MailAddress;
use Kaiseki\Core\Mail\Message;

/** A message as its row in the catalog has it. */
final readonly class ItemRow
{
    /** Of one message so many addresses are in words. */
    private const MOST = 100;

    private const SUBJECT = 1_000;

    private const WORDS = 20_000;

    /** @param  array<string, mixed>  $columns  of the table items, without id, workload_id and thread */
    private function __construct(public array $columns, public string $terms, public string $messageId, public string $root)
    {
    }

    /** @param  int  $receivedAt  seconds since 1970 */
    public static function of(string $bytes, string $identity, int $receivedAt): self
    {
        $message = Message::of($bytes);
        [$from, $to, $cc] = [$message->from(), $message->to(), $message->copiedTo()];
        $attachments = $message->attachments();
        $id = mb_strcut($message->messageId(), 0, 500);

        return new self(
            [
                'identity' => $identity,
                'kind' => 'm',
                'message_id' => $id,
                'subject' => mb_substr($message->subject(), 0, self::SUBJECT),
                'sender' => mb_strcut(self::words($from), 0, 500),
                'recipients' => mb_strcut(self::words([...$to, ...$cc]), 0, 1000),
                'sent_at' => $message->sentAt(),
                'received_at' => $receivedAt,
                'size' => strlen($bytes),
                'attachments' => min(65_535, count($attachments)),
                'details' => ItemDetails::of($to, $cc, $attachments, $message->wrong)->json(),
            ],
            self::terms($from, $to, $cc, $message->subject(), $attachments),
            $id,
            $message->references()[0] ?? $id,
        );
    }

    /** The key of the thread that begins with a message. */
    public static function thread(string $messageId, string $identity): int
    {
        $of = ContentDigest::of($messageId === '' ? $identity : $messageId);

        return (unpack('J', $of)[1] ?? 0) & PHP_INT_MAX;
    }

    /** @param  list<MailAddress>  $addresses */
    private static function words(array $addresses): string
    {
        return implode(', ', array_map(fn (MailAddress $of): string => $of->words(), array_slice($addresses, 0, self::MOST)));
    }

    /**
     * @param  list<MailAddress>  $from
     * @param  list<MailAddress>  $to
     * @param  list<MailAddress>  $cc
     * @param  list<Attachment>  $attachments
     */
    private static function terms(array $from, array $to, array $cc, string $subject, array $attachments): string
    {
        $names = implode(' ', array_map(fn (Attachment $of): string => $of->name, $attachments));
        $terms = [];
        foreach (
            [
                [ItemField::From, self::words($from)],
                [ItemField::To, self::words($to)],
                [ItemField::Cc, self::words($cc)],
                [ItemField::Subject, $subject],
                [ItemField::Name, $names],
            ] as [$field, $text]
        ) {
            array_push($terms, ...$field->marked($text));
        }

        return mb_strcut(implode(' ', $terms), 0, self::WORDS);
    }
}
