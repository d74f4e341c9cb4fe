<?php

declare(strict_types=1);

namespace App\Kinds\Items\Order;

use App\Words;

/** What a message with items attached may be. */
final class Sending
{
    public const MOST = 100;

    /** Bytes; mail servers take little more (common practice). */
    public const LARGEST = 15 << 20;

    /**
     * Null if it can be sent.
     *
     * @param  list<ChosenItem>  $chosen
     */
    public static function refuses(array $chosen): ?string
    {
        $bytes = array_sum(array_map(fn (ChosenItem $one): int => $one->item->size, $chosen));

        return match (true) {
            config('mail.default') !== 'smtp' => 'The desk has no mail server to send by: KAISEKI_MAIL when it is started, or take files.',
            count($chosen) > self::MOST => 'A message has at most '.self::MOST.' items attached; take files for more.',
            $bytes > self::LARGEST => 'It is '.Words::size($bytes).', and a message has at most '.Words::size(self::LARGEST).
                ': take files.',
            default => null,
        };
    }
}
