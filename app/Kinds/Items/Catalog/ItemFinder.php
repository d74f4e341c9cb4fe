<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Models\BackupSet;
use App\Models\Workload;
use App\Trees\Catalog\LeftOutSince;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Mail\ItemQuery;
use stdClass;

/** Looks for items of a workload in the catalog: at a point, or over all of them. */
final class ItemFinder
{
    private ItemCandidates $candidates;

    /**
     * @param  BackupSet|null  $point  null: whenever it was
     * @param  string|null  $only  the mailbox outside of which nothing is seen; null for all
     * @param  SpanWindow|null  $window  null: wherever it ever lay is told
     */
    private function __construct(
        private readonly Workload $workload,
        private readonly ItemQuery $query,
        private readonly ?BackupSet $point,
        private readonly ?string $only,
        private readonly ?SpanWindow $window = null,
    ) {
        $this->candidates = new ItemCandidates($workload, $query, $point, $only);
    }

    /**
     * @param  BackupSet|null  $point  null: whenever it was
     * @param  string|null  $only  the mailbox outside of which nothing is seen: what lay elsewhere too is told as if it had not
     * @return list<FoundItem> the newest first
     */
    public static function find(
        Workload $workload,
        ItemQuery $query,
        ?BackupSet $point,
        int $most,
        int $skip = 0,
        ?string $only = null,
    ): array {
        return (new self($workload, $query, $point, $only))->page($most, $skip);
    }

    /**
     * The same, told only where they lay in a window; of what is looked for by whether it is gone, wherever they lay.
     *
     * @return list<FoundItem> the newest first
     */
    public static function findWithin(Workload $workload, ItemQuery $query, BackupSet $point, SpanWindow $window, int $most): array
    {
        return (new self($workload, $query, $point, null, $query->isGone === null ? $window : null))->page($most, 0);
    }

    /** @return list<FoundItem> */
    private function page(int $most, int $skip): array
    {
        $found = [];
        // Where what may fit lay is looked at until there are enough.
        foreach ($this->candidates->batches($skip + $most) as $ids) {
            array_push($found, ...$this->fitting($ids));
            if (count($found) >= $skip + $most) {
                break;
            }
        }

        return array_slice($found, $skip, $most);
    }

    /**
     * @param  list<int>  $ids
     * @return list<FoundItem> in the same order
     */
    private function fitting(array $ids): array
    {
        $items = [];
        foreach (self::byId($this->workload, $this->candidates->withPhrases($ids), $this->window) as $item) {
            $item = $this->only === null ? $item : $item->in($this->only);
            if ($this->fits($item)) {
                $items[$item->id] = $item;
            }
        }

        return array_values(array_filter(array_map(fn (int $id): ?FoundItem => $items[$id] ?? null, $ids)));
    }

    private function fits(FoundItem $item): bool
    {
        if ($this->query->isGone !== null && $item->isGone() !== $this->query->isGone) {
            return false;
        }
        foreach ($item->spans as $span) {
            if (
                ($this->point === null || $span->isAt($this->point->history_id, $this->point->instant)) &&
                self::holds($span->mailbox, $this->query->mailbox) &&
                self::holds($span->folder, $this->query->folder) &&
                $this->isFlagged($span)
            ) {
                return true;
            }
        }

        return false;
    }

    private static function holds(string $name, string $part): bool
    {
        return $part === '' || str_contains(mb_strtolower($name), mb_strtolower($part));
    }

    private function isFlagged(ItemSpan $span): bool
    {
        foreach ($this->query->flags as $flag => $mustBe) {
            if (str_contains($span->flags(), $flag) !== $mustBe) {
                return false;
            }
        }

        return true;
    }

    /** By the beginning of its identity in hex, as FoundItem::key() gives it, or all of it; null unless exactly one has it. */
    public static function named(Workload $workload, string $key): ?FoundItem
    {
        if (preg_match('/^[0-9a-f]{8,64}$/D', $key) !== 1) {
            return null;
        }
        $rows = DB::select(
            'SELECT * FROM items WHERE workload_id = ? AND identity BETWEEN ? AND ? LIMIT 2',
            [$workload->id, hex2bin(str_pad($key, 64, '0')), hex2bin(str_pad($key, 64, 'f'))],
        );

        return count($rows) === 1 ? self::withSpans($workload, $rows)[0] : null;
    }

    /**
     * @param  list<int>  $ids
     * @param  SpanWindow|null  $window  null: wherever they ever lay is told
     * @return list<FoundItem> in the order of their ids
     */
    public static function byId(Workload $workload, array $ids, ?SpanWindow $window = null): array
    {
        $found = [];
        foreach (array_chunk($ids, 1_000) as $some) {
            $rows = DB::select(
                'SELECT * FROM items WHERE workload_id = ? AND id IN ('.implode(',', $some).') ORDER BY id',
                [$workload->id],
            );
            array_push($found, ...self::withSpans($workload, $rows, $window));
        }

        return $found;
    }

    /**
     * @param  string|null  $only  the mailbox outside of which nothing is seen
     * @return list<FoundItem> of one thread, the oldest first
     */
    public static function thread(Workload $workload, int $thread, int $most = 200, ?string $only = null): array
    {
        $rows = DB::select(
            'SELECT * FROM items WHERE workload_id = ? AND thread = ? ORDER BY COALESCE(sent_at, received_at), id LIMIT ?',
            [$workload->id, $thread, $most],
        );

        $found = self::withSpans($workload, $rows);
        $found = $only === null ? $found : array_map(fn (FoundItem $item): FoundItem => $item->in($only), $found);

        return array_values(array_filter($found, fn (FoundItem $item): bool => $only === null || $item->spans !== []));
    }

    /**
     * Of which appointments and contacts another state is there at the newest point.
     *
     * @param  list<FoundItem>  $items
     * @return array<int, true> threads
     */
    public static function changed(Workload $workload, array $items): array
    {
        $gone = array_filter($items, fn (FoundItem $item): bool => $item->sort->isOfFields() && $item->isGone());
        $threads = array_values(array_unique(array_map(fn (FoundItem $item): int => $item->thread, $gone)));
        if ($threads === []) {
            return [];
        }
        $rows = DB::select(
            'SELECT DISTINCT i.thread FROM items i JOIN item_contents c ON c.workload_id = i.workload_id AND c.item_id = i.id '.
                'JOIN versions v FORCE INDEX (content) ON v.digest = c.digest AND v.until = ? JOIN histories h ON h.id = v.history_id '.
                'AND h.workload_id = i.workload_id WHERE i.workload_id = ? AND i.thread IN ('.implode(',', $threads).')',
            [PHP_INT_MAX, $workload->id],
        );

        return array_fill_keys(array_map(fn (stdClass $row): int => (int) $row->thread, $rows), true);
    }

    /**
     * @param  array<stdClass>  $rows
     * @return list<FoundItem>
     */
    private static function withSpans(Workload $workload, array $rows, ?SpanWindow $window = null): array
    {
        $spans = [];
        foreach (array_chunk(array_map(fn (stdClass $row): int => (int) $row->id, $rows), 500) as $ids) {
            foreach (self::spans($workload, $ids, $window) as $span) {
                $spans[$span->item][] = $span;
            }
        }

        return array_values(array_map(fn (stdClass $row): FoundItem => FoundItem::of($row, $spans[(int) $row->id] ?? []), $rows));
    }

    /**
     * @param  list<int>  $ids
     * @param  SpanWindow|null  $window  null: wherever they ever lay
     * @return list<ItemSpan> the oldest first
     */
    private static function spans(Workload $workload, array $ids, ?SpanWindow $window): array
    {
        $within = $window === null ? '' : 'AND v.history_id = ? AND v.first <= ? AND v.until > ? ';
        $rows = DB::select(
            'SELECT STRAIGHT_JOIN c.item_id, c.form, v.history_id, v.first, v.until, v.mtime, v.size, v.path_id, v.parent_id, '.
                'v.digest, p.name, COALESCE(f.mailbox, g.mailbox) AS mailbox, COALESCE(f.folder, g.folder) AS folder '.
                'FROM item_contents c JOIN versions v FORCE INDEX (content) ON v.digest = c.digest '.$within.
                'JOIN paths p ON p.id = v.path_id AND p.workload_id = c.workload_id '.
                'LEFT JOIN item_folders f ON f.path_id = v.path_id LEFT JOIN item_folders g ON g.path_id = v.parent_id '.
                'WHERE c.workload_id = ? AND c.item_id IN ('.implode(',', $ids).')',
            [...$window === null ? [] : [$window->history, $window->to, $window->from], $workload->id],
        );
        // Put in order here: the server would make a table for that.
        $known = array_filter($rows, fn (stdClass $row): bool => $row->mailbox !== null);
        array_multisort(array_column($known, 'first'), array_column($known, 'path_id'), $known);
        $leftOut = LeftOutSince::among($known);

        return array_map(
            fn (stdClass $row, int $key): ItemSpan => new ItemSpan(
                (int) $row->item_id,
                (string) $row->mailbox,
                (string) $row->folder,
                $row->name,
                (int) $row->history_id,
                (int) $row->first,
                (int) $row->until,
                $row->form === '' ? intdiv((int) $row->mtime, 1_000_000_000) : null,
                $row->digest,
                (int) $row->size,
                (int) $row->path_id,
                isset($leftOut[$key]),
            ),
            $known,
            array_keys($known),
        );
    }
}
