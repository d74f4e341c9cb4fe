<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Models\Workload;
use App\NamedLock;
use App\Sets\Points;
use App\Trees\Catalog\ContentText;
use Closure;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Content\Form;
use Kaiseki\Core\Files\SpooledContent;
use Kaiseki\Core\Mail\Attachment;
use Kaiseki\Core\Mail\Calendar\CalendarObject;
use Kaiseki\Core\Mail\Contact\ContactCard;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\Message;
use Kaiseki\Core\Mail\SearchWords;
use stdClass;

/** The words of bodies and attachments, looked up after items were cataloged. */
final class ItemWords
{
    private const AT_ONCE = 200;

    /** Bytes of text that are looked through, of one item. */
    private const MOST = 512 << 10;

    /** Larger attachments are data more often than words. */
    private const LARGEST = 8 << 20;

    /** How many items of a workload wait for it. */
    public static function waiting(Workload $workload): int
    {
        return (int) DB::scalar('SELECT COUNT(*) FROM items WHERE workload_id = ? AND worded = 0', [$workload->id]);
    }

    /**
     * @param  (Closure(int): void)|null  $progress  told the items so far
     * @return int items looked through
     */
    public static function bringUpToDate(Workload $workload, ?Closure $progress = null): int
    {
        $all = 0;
        NamedLock::unlessHeld("item words {$workload->id}", function () use ($workload, $progress, &$all): void {
            $points = new Points($workload);
            $reader = new ItemReader($points);
            try {
                for ($after = 0; ($rows = self::next($workload, $after)) !== []; $after = (int) end($rows)->id) {
                    self::take($reader, $rows);
                    $all += count($rows);
                    if ($progress !== null) {
                        $progress($all);
                    }
                }
            } finally {
                $points->stores->release();
            }
        });

        return $all;
    }

    /** @return array<stdClass> */
    private static function next(Workload $workload, int $after): array
    {
        return DB::select(
            'SELECT id, kind, subject, sender, recipients FROM items WHERE workload_id = ? AND worded = 0 AND id > ? ORDER BY id LIMIT ?',
            [$workload->id, $after, self::AT_ONCE],
        );
    }

    /** @param  array<stdClass>  $rows */
    private static function take(ItemReader $reader, array $rows): void
    {
        $values = $done = [];
        $fields = $sorts = [];
        foreach ($rows as $row) {
            $sorts[(int) $row->id] = ItemSort::from($row->kind);
            $fields[(int) $row->id] = "{$row->subject} {$row->sender} {$row->recipients}";
        }
        $reader->read(array_keys($fields), function (int $id, string $bytes) use (&$values, &$done, $fields, $sorts): void {
            $words = SearchWords::of($fields[$id].' '.self::text($sorts[$id], $bytes));
            array_push($values, $id, mb_strcut(implode(' ', $words), 0, self::MOST));
            $done[] = $id;
        });
        if ($done !== []) {
            // One commit for many: each makes the server bring its index of words to the disk.
            DB::transaction(function () use ($values, $done): void {
                DB::insert('INSERT INTO item_words (item_id, words) VALUES '.implode(',', array_fill(0, count($done), '(?,?)')), $values);
                DB::update('UPDATE items SET worded = 1 WHERE id IN ('.implode(',', $done).')');
            });
        }
    }

    private static function text(ItemSort $sort, string $bytes): string
    {
        return match (true) {
            $sort === ItemSort::Message => self::ofMessage($bytes),
            $sort === ItemSort::Contact => ContactCard::of($bytes)->words(),
            default => mb_strcut(CalendarObject::of($bytes)->words(), 0, self::MOST),
        };
    }

    private static function ofMessage(string $bytes): string
    {
        $message = Message::of($bytes);
        $text = mb_strcut($message->words(), 0, self::MOST);
        foreach ($message->attachments() as $attachment) {
            if (strlen($text) < self::MOST) {
                $text .= ' '.$attachment->name.' '.self::ofAttachment($message, $attachment);
            }
        }

        return $text;
    }

    private static function ofAttachment(Message $message, Attachment $attachment): string
    {
        if ($attachment->size > self::LARGEST || ! Form::mayHoldText($attachment->name)) {
            return '';
        }
        $content = new SpooledContent;
        $content->data($attachment->part->decoded($message->bytes));

        return (string) ContentText::of($content->rewound(), $attachment->name, self::MOST);
    }
}
