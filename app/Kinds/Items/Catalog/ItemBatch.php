<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use Illuminate\Support\Facades\DB;

/** Items and their contents on the way into the catalog, many at once. */
final class ItemBatch
{
    private const COLUMNS = [
        'workload_id', 'identity', 'kind', 'message_id', 'thread', 'subject', 'sender', 'recipients', 'sent_at', 'received_at', 'size',
        'attachments', 'details', 'worded',
    ];

    private const FULL = 500;

    /** @var array<string, ItemRow> identity => row */
    private array $rows = [];

    /** @var list<array{string, int, string, int, int, string}> digest, part, identity, offset, length, form; '' for no item */
    private array $contents = [];

    private int $items = 0;

    public function __construct(private readonly int $workload)
    {
    }

    /** @param  string  $digest  of the content that it stands in */
    public function add(string $digest, int $part, ItemInFile $found): void
    {
        $this->rows[$found->identity] ??= $found->row;
        $this->contents[] = [$digest, $part, $found->identity, $found->offset, $found->length, $found->form];
        if (count($this->rows) >= self::FULL) {
            $this->write();
        }
    }

    /** A content that was looked into and holds no item. */
    public function none(string $digest): void
    {
        $this->contents[] = [$digest, 0, '', 0, 0, ''];
    }

    /** @return int how many items were written that nobody had seen before */
    public function written(): int
    {
        return $this->items;
    }

    public function write(): void
    {
        DB::transaction(function (): void {
            $known = $this->known(array_map(strval(...), array_keys($this->rows)));
            $new = array_diff_key($this->rows, $known);
            $ids = $known + $this->insert($new);
            $values = [];
            foreach ($this->contents as [$digest, $part, $identity, $offset, $length, $form]) {
                array_push($values, $this->workload, $digest, $part, $identity === '' ? 0 : $ids[$identity], $offset, $length, $form);
            }
            foreach (array_chunk($values, 7 * self::FULL) as $some) {
                DB::insert('INSERT IGNORE INTO item_contents VALUES '.self::places(count($some) / 7, 7), $some);
            }
        });
        $this->rows = $this->contents = [];
    }

    /**
     * @param  list<string>  $identities
     * @return array<string, int> identity => id
     */
    private function known(array $identities): array
    {
        $known = [];
        foreach (array_chunk($identities, self::FULL) as $some) {
            $rows = DB::select(
                'SELECT id, identity FROM items WHERE workload_id = ? AND identity IN ('.implode(',', array_fill(0, count($some), '?')).')',
                [$this->workload, ...$some],
            );
            foreach ($rows as $row) {
                $known[$row->identity] = (int) $row->id;
            }
        }

        return $known;
    }

    /**
     * @param  array<string, ItemRow>  $rows
     * @return array<string, int> identity => id
     */
    private function insert(array $rows): array
    {
        if ($rows === []) {
            return [];
        }
        $threads = $this->threads($rows);
        $values = [];
        foreach ($rows as $identity => $row) {
            $all = ['workload_id' => $this->workload, 'thread' => $threads[$identity], 'worded' => 0] + $row->columns;
            foreach (self::COLUMNS as $column) {
                $values[] = $all[$column];
            }
        }
        DB::insert(
            'INSERT INTO items ('.implode(',', self::COLUMNS).') VALUES '.self::places(count($rows), count(self::COLUMNS)),
            $values,
        );
        // One statement with so many rows gets ids that follow one another (innodb_autoinc_lock_mode of 0 and 1; ours is not told another).
        $id = (int) DB::getPdo()->lastInsertId();
        $ids = $terms = [];
        foreach ($rows as $identity => $row) {
            $ids[$identity] = $id;
            array_push($terms, $id++, $row->terms);
        }
        DB::insert('INSERT INTO item_terms (item_id, terms) VALUES '.self::places(count($rows), 2), $terms);
        $this->insertTimes($rows, $ids);
        $this->items += count($rows);

        return $ids;
    }

    /**
     * @param  array<string, ItemRow>  $rows
     * @param  array<string, int>  $ids
     */
    private function insertTimes(array $rows, array $ids): void
    {
        $values = [];
        foreach ($rows as $identity => $row) {
            foreach ($row->times as $time) {
                array_push($values, $ids[$identity], $time->key, $time->begins, $time->ends);
            }
        }
        foreach (array_chunk($values, 4 * self::FULL) as $some) {
            DB::insert('INSERT IGNORE INTO item_times VALUES '.self::places(count($some) / 4, 4), $some);
        }
    }

    /**
     * A message belongs to the thread of the message that it answers, if that is known, else to the one that its first reference begins.
     *
     * @param  array<string, ItemRow>  $rows
     * @return array<string, int> identity => thread
     */
    private function threads(array $rows): array
    {
        $roots = array_values(array_unique(array_filter(array_map(fn (ItemRow $row): string => $row->root, $rows))));
        $known = [];
        foreach (array_chunk($roots, self::FULL) as $some) {
            $found = DB::select(
                'SELECT message_id, thread FROM items WHERE workload_id = ? AND message_id IN ('.
                    implode(',', array_fill(0, count($some), '?')).')',
                [$this->workload, ...$some],
            );
            foreach ($found as $row) {
                $known[$row->message_id] = (int) $row->thread;
            }
        }
        $threads = [];
        foreach ($rows as $identity => $row) {
            $threads[$identity] = $known[$row->root] ?? ItemRow::thread($row->root, (string) $identity);
        }

        return $threads;
    }

    private static function places(int|float $rows, int $columns): string
    {
        return implode(',', array_fill(0, (int) $rows, '('.implode(',', array_fill(0, $columns, '?')).')'));
    }
}
