<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Sets\Points;
use App\Sets\SetOutline;
use Closure;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Files\SpooledContent;
use Kaiseki\Core\Mail\Calendar\CalendarFile;
use Kaiseki\Core\Mail\MboxForm;
use stdClass;

/** The bytes of items, out of the archives. */
final class ItemReader
{
    private readonly ItemContents $contents;

    public function __construct(private readonly Points $points)
    {
        $this->contents = new ItemContents($points);
    }

    /** Null if no archive gives it. */
    public function one(int $item): ?string
    {
        return $this->all([$item])[$item] ?? null;
    }

    /**
     * Few enough to be held at once.
     *
     * @param  list<int>  $items  ids
     * @return array<int, string> id => bytes; none for those that no archive gives
     */
    public function all(array $items): array
    {
        $all = [];
        $this->read($items, function (int $id, string $bytes) use (&$all): void {
            $all[$id] = $bytes;
        });

        return $all;
    }

    /**
     * @param  list<int>  $items  ids
     * @param  Closure(int, string): void  $each  told id and bytes, each once, in whatever order is quickest
     * @return list<int> those that no archive gives
     */
    public function read(array $items, Closure $each): array
    {
        $open = array_fill_keys($items, true);
        foreach ($this->places($items) as $round) {
            $wanted = $parts = [];
            foreach ($round as $row) {
                if (isset($open[(int) $row->item_id])) {
                    $wanted[$row->digest] = [$this->setOf($row), (int) $row->size];
                    $parts[$row->digest][] = $row;
                }
            }
            $this->contents->read(
                array_filter($wanted, fn (array $one): bool => $one[0] !== null),
                function (string $digest, SpooledContent $content) use ($parts, $each, &$open): void {
                    foreach (self::cut($content, $parts[$digest]) as $id => $bytes) {
                        unset($open[$id]);
                        $each($id, $bytes);
                    }
                },
            );
        }

        return array_keys($open);
    }

    /**
     * Where each stands, in the first round one place of each, in the second another where there is one.
     *
     * @param  list<int>  $items
     * @return list<list<stdClass>>
     */
    private function places(array $items): array
    {
        $rounds = $turn = [];
        foreach (array_chunk($items, 1_000) as $some) {
            $rows = DB::select(
                // In this order, whatever the server thinks: it would go through all versions of the history.
                'SELECT STRAIGHT_JOIN c.item_id, c.digest, c.start, c.length, c.form, v.history_id, MIN(v.first) AS first, '.
                    'MAX(v.until) AS until, MAX(v.size) AS size FROM item_contents c '.
                    'JOIN versions v FORCE INDEX (content) ON v.digest = c.digest JOIN histories h ON h.id = v.history_id '.
                    'WHERE h.workload_id = c.workload_id AND c.item_id IN ('.implode(',', $some).') '.
                    'GROUP BY c.item_id, c.digest, c.part, c.start, c.length, c.form, v.history_id ORDER BY c.item_id, c.form, first',
            );
            foreach ($rows as $row) {
                $rounds[$turn[(int) $row->item_id] ??= 0][] = $row;
                $turn[(int) $row->item_id]++;
            }
        }

        return array_values($rounds);
    }

    private function setOf(stdClass $row): ?SetOutline
    {
        foreach ($this->points->sets as $set) {
            if ($set->history === (int) $row->history_id && $set->instant >= (int) $row->first && $set->instant < (int) $row->until) {
                return $set;
            }
        }

        return null;
    }

    /**
     * A content with several objects is taken apart once for all of them.
     *
     * @param  list<stdClass>  $rows
     * @return iterable<int, string> item => bytes
     */
    private static function cut(SpooledContent $content, array $rows): iterable
    {
        $objects = null;
        foreach ($rows as $row) {
            $stream = $content->rewound();
            if ($row->form === ItemInFile::OBJECT) {
                $objects ??= CalendarFile::objects((string) stream_get_contents($stream, CalendarFile::LARGEST));
                yield (int) $row->item_id => $objects[(int) $row->start] ?? '';

                continue;
            }
            fseek($stream, (int) $row->start);
            $bytes = (int) $row->length === 0 ? '' : (string) stream_get_contents($stream, (int) $row->length);
            yield (int) $row->item_id => $row->form === '' ? $bytes : MboxForm::from($row->form)->unquoted($bytes);
        }
    }
}
