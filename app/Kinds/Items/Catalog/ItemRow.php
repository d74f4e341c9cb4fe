<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Mail\Calendar\Occurrence;
use Kaiseki\Core\Mail\ItemField;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\MailAddress;

/** An item as its row in the catalog has it. */
final readonly class ItemRow
{
    /** Of one item so many addresses are in words. */
    private const MOST = 100;

    private const SUBJECT = 1_000;

    private const WORDS = 20_000;

    /** @var array<string, mixed> of the table items, without id, workload_id and thread */
    public array $columns;

    public string $terms;

    /** By which what belongs together is known: the first message of a thread, or the appointment of which it is a state. */
    public string $root;

    /**
     * @param  string  $messageId  or the UID of an appointment or a contact
     * @param  string  $root  '' for the messageId
     * @param  int|null  $sentAt  seconds since 1970; of an appointment when it begins
     * @param  array<string, string>  $fields  see ItemField
     * @param  list<Occurrence>  $times  when it takes place
     */
    public function __construct(
        ItemSort $sort,
        string $identity,
        string $messageId,
        string $root,
        string $subject,
        string $sender,
        string $recipients,
        ?int $sentAt,
        int $receivedAt,
        int $size,
        int $attachments,
        ItemDetails $details,
        array $fields,
        public array $times = [],
    ) {
        $id = mb_strcut($messageId, 0, 500);
        $this->root = $root === '' ? $id : $root;
        $this->columns = [
            'identity' => $identity,
            'kind' => $sort->value,
            'message_id' => $id,
            'subject' => mb_substr($subject, 0, self::SUBJECT),
            'sender' => mb_strcut($sender, 0, 500),
            'recipients' => mb_strcut($recipients, 0, 1000),
            'sent_at' => $sentAt,
            'received_at' => $receivedAt,
            'size' => $size,
            'attachments' => min(65_535, $attachments),
            'details' => $details->json(),
        ];
        $this->terms = self::terms($fields);
    }

    /** The key of the thread that begins with a message. */
    public static function thread(string $messageId, string $identity): int
    {
        $of = ContentDigest::of($messageId === '' ? $identity : $messageId);

        return (unpack('J', $of)[1] ?? 0) & PHP_INT_MAX;
    }

    /** @param  list<MailAddress>  $addresses */
    public static function words(array $addresses): string
    {
        return implode(', ', array_map(fn (MailAddress $of): string => $of->words(), array_slice($addresses, 0, self::MOST)));
    }

    /** @param  array<string, string>  $fields */
    private static function terms(array $fields): string
    {
        $terms = [];
        foreach ($fields as $field => $text) {
            array_push($terms, ...ItemField::from($field)->marked($text));
        }

        return mb_strcut(implode(' ', $terms), 0, self::WORDS);
    }
}
