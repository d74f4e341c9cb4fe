<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Kinds\Items\Order\ChosenItem;
use Kaiseki\Core\Instant;

/** What is in a bag, item by item, for people (CSV, RFC 4180) and for programs (a JSON document a line). */
final class BagList
{
    private const COLUMNS = [
        'file', 'kind', 'mailbox', 'folder', 'from', 'to', 'subject', 'sent_or_begins_at', 'received_at', 'first_seen',
        'last_seen_before', 'size', 'id', 'sha256', 'identity_blake2b_256',
    ];

    public string $csv;

    public string $lines = '';

    public function __construct()
    {
        $this->csv = self::row(self::COLUMNS);
    }

    /** @param  string  $sha256  of its file, hex */
    public function add(string $file, ChosenItem $one, string $sha256): void
    {
        $item = $one->item;
        $seconds = fn (?int $at): ?string => $at === null ? null : gmdate('Y-m-d\TH:i:s\Z', $at);
        $moment = fn (int $at): ?string => $at === PHP_INT_MAX ? null : Instant::ofMicroseconds($at)->iso();
        $values = array_combine(self::COLUMNS, [
            $file, $item->sort->noun(), $one->span->mailbox, $one->span->folder, $item->sender, $item->recipients, $item->subject,
            $seconds($item->sentAt), $seconds($one->receivedAt()), $moment($item->first()), $moment($item->until()), $item->size,
            $item->messageId, $sha256, bin2hex($item->identity),
        ]);
        $this->lines .= json_encode(
            $values,
            JSON_THROW_ON_ERROR | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE,
        )."\n";
        $this->csv .= self::row(array_values(array_map(strval(...), $values)));
    }

    /** @param  list<string>  $cells */
    private static function row(array $cells): string
    {
        return implode(',', array_map(self::cell(...), $cells))."\r\n";
    }

    /** Cells that a spreadsheet would take for a formula begin with an apostrophe (common practice). */
    private static function cell(string $text): string
    {
        $safe = preg_match('/^[=+\-@\t\r]/', $text) === 1 ? "'$text" : $text;

        return '"'.str_replace('"', '""', mb_scrub($safe)).'"';
    }
}
