<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Models\BackupSet;
use App\Models\Workload;
use App\Trees\Catalog\LeftOutSince;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Mail\ItemField;
use Kaiseki\Core\Mail\ItemQuery;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\ItemTerm;
use stdClass;

/** Looks for items of a workload in the catalog: at a point, or over all of them. */
final class ItemFinder
{
    /** Seconds that a search may take. */
    private const PATIENCE = 20;

    /** Of so many that may fit it is looked at where they lay. */
    private const CANDIDATES = 200_000;

    private const AT_ONCE = 500;

    /**
     * Of so many of the newest flags alone are looked at one by one, which finds enough of most; only then all are asked for under whose
     * names they lay.
     */
    private const NEWEST = 3_000;

    /** @var list<string> */
    private array $where;

    /** @var list<mixed> */
    private array $values;

    private ?bool $isWaiting = null;

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
        $this->where = ['i.workload_id = ?'];
        $this->values = [$workload->id];
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
        $this->ask();
        $found = [];
        // What may fit is asked for once, by what a message is; where it lay is looked at until there are enough.
        $candidates = $this->candidates();
        $mayAskMore = $this->isByFlagsAlone();
        for ($from = 0, $some = min(self::AT_ONCE, $skip + $most); $from < count($candidates) && count($found) < $skip + $most;) {
            if ($mayAskMore && $from >= self::NEWEST) {
                $mayAskMore = false;
                $this->askFolders();
                $seen = array_fill_keys(array_slice($candidates, 0, $from), true);
                $candidates = array_values(array_filter($this->candidates(), fn (int $id): bool => ! isset($seen[$id])));
                $from = 0;

                continue;
            }
            array_push($found, ...$this->fitting(array_slice($candidates, $from, $some)));
            [$from, $some] = [$from + $some, self::AT_ONCE];
        }

        return array_slice($found, $skip, $most);
    }

    private function isByFlagsAlone(): bool
    {
        $query = $this->query;

        return $query->flags !== [] && $query->terms === [] && ! $this->isByFolder();
    }

    private function isByFolder(): bool
    {
        return $this->only !== null || $this->query->mailbox !== '' || $this->query->folder !== '';
    }

    /**
     * @param  list<int>  $ids
     * @return list<FoundItem> in the same order
     */
    private function fitting(array $ids): array
    {
        $items = [];
        foreach (self::byId($this->workload, $ids, $this->window) as $item) {
            $item = $this->only === null ? $item : $item->in($this->only);
            if ($this->fits($item)) {
                $items[$item->id] = $item;
            }
        }

        return array_values(array_filter(array_map(fn (int $id): ?FoundItem => $items[$id] ?? null, $ids)));
    }

    /** @return list<int> ids, the newest first */
    private function candidates(): array
    {
        $rows = DB::select(
            'SET STATEMENT max_statement_time='.self::PATIENCE.' FOR SELECT i.id FROM items i WHERE '.implode(' AND ', $this->where).
                ' ORDER BY i.received_at DESC, i.id DESC LIMIT '.self::CANDIDATES,
            $this->values,
        );

        return array_map(fn (stdClass $row): int => (int) $row->id, $rows);
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

    private function ask(): void
    {
        $query = $this->query;
        $this->askWords(array_values(array_filter($query->terms, fn (ItemTerm $term): bool => ! $term->isNegated)));
        foreach ($query->terms as $term) {
            if ($term->isNegated) {
                [$sql, $values] = $this->having([$term]);
                $this->demand("i.id NOT IN ($sql)", ...$values);
            }
        }
        $this->askDays();
        if ($query->sorts !== []) {
            $this->demand(
                'i.kind IN ('.implode(',', array_fill(0, count($query->sorts), '?')).')',
                ...array_map(fn (ItemSort $sort): string => $sort->value, $query->sorts),
            );
        }
        if ($query->messageId !== '') {
            $this->demand('i.message_id = ?', $query->messageId);
        }
        foreach ($query->numbers as [$what, $how, $number]) {
            $this->demand("i.$what $how ?", $number); // both are from a fixed list
        }
        if ($this->isByFolder()) {
            $this->askFolders();
        }
    }

    /** Days on which something takes place, or else was sent. */
    private function askDays(): void
    {
        [$before, $after] = [$this->query->before, $this->query->after];
        if ($before === null && $after === null) {
            return;
        }
        [$from, $to] = [$after ?? PHP_INT_MIN, $before ?? PHP_INT_MAX];
        $this->demand(
            '(COALESCE(i.sent_at, i.received_at) >= ? AND COALESCE(i.sent_at, i.received_at) < ? OR i.kind NOT IN (?, ?) AND EXISTS '.
                '(SELECT 1 FROM item_times t WHERE t.item_id = i.id AND t.begins < ? AND (t.ends > ? OR t.begins >= ?)))',
            $from, $to, ItemSort::Message->value, ItemSort::Contact->value, $to, $from, $from,
        );
    }

    /** @param  list<ItemTerm>  $terms */
    private function askWords(array $terms): void
    {
        $free = array_values(array_filter($terms, fn (ItemTerm $term): bool => $term->field === null));
        $fields = array_values(array_filter($terms, fn (ItemTerm $term): bool => $term->field !== null));
        foreach ([$fields, $free] as $some) {
            if ($some !== []) {
                [$sql, $values] = $this->having($some);
                $this->demand("i.id IN ($sql)", ...$values);
            }
        }
    }

    /**
     * The items that have all of these words: in a field, or anywhere, where also those are found whose bodies wait to be looked through.
     *
     * @param  non-empty-list<ItemTerm>  $terms  all with a field, or all without
     * @return array{string, list<string>}
     */
    private function having(array $terms): array
    {
        $terms = array_values($terms);
        $inFields = implode(' ', array_map(fn (ItemTerm $term): string => '+'.self::inFields($term), $terms));
        $select = 'SELECT item_id FROM item_terms WHERE MATCH (terms) AGAINST (? IN BOOLEAN MODE)';
        if ($terms[0]->field !== null) {
            return [$select, [$inFields]];
        }
        $anywhere = implode(' ', array_map(fn (ItemTerm $term): string => '+'.self::words($term->words, '', $term->isPhrase), $terms));
        $ofAll = 'SELECT item_id FROM item_words WHERE MATCH (words) AGAINST (? IN BOOLEAN MODE)';

        return $this->isWaiting() ? [self::once("$select UNION $ofAll"), [$inFields, $anywhere]] : [$ofAll, [$anywhere]];
    }

    /** Whether bodies wait to be looked through: of those only fields are known, which else stand among the words of all. */
    private function isWaiting(): bool
    {
        return $this->isWaiting ??= DB::selectOne(
            'SELECT 1 FROM items WHERE workload_id = ? AND worded = 0 LIMIT 1',
            [$this->workload->id],
        ) !== null;
    }

    /** A union that is found once: by itself the server asks it again for each row. */
    private static function once(string $union): string
    {
        return "SELECT item_id FROM ($union) AS found";
    }

    /** In its field, or in any of them. */
    private static function inFields(ItemTerm $term): string
    {
        $fields = $term->field === null ? ItemField::cases() : [$term->field];
        $each = array_map(fn (ItemField $field): string => self::words($term->words, $field->mark(), $term->isPhrase), $fields);

        return count($each) === 1 ? $each[0] : '('.implode(' ', $each).')';
    }

    /**
     * As the server's boolean mode has it: words are letters and digits alone, so that nothing of what people type is an operator.
     *
     * @param  list<string>  $words
     */
    private static function words(array $words, string $mark, bool $isPhrase): string
    {
        $marked = array_map(fn (string $word): string => $mark.$word, $words);

        return $isPhrase ? '"'.implode(' ', $marked).'"' : "{$marked[0]}*";
    }

    /** Those that lay in a folder of such a name, or under a name with such flags, at the point or whenever that was. */
    private function askFolders(): void
    {
        $where = ['f.workload_id = ?'];
        $values = [$this->workload->id];
        foreach (['f.mailbox' => $this->query->mailbox, 'f.folder' => $this->query->folder] as $what => $part) {
            if ($part !== '') {
                $where[] = "INSTR(LOWER($what), ?) > 0";
                $values[] = mb_strtolower($part);
            }
        }
        if ($this->only !== null) {
            $where[] = 'f.mailbox = ?';
            $values[] = $this->only;
        }
        if ($this->point !== null) {
            $where[] = 'v.history_id = ? AND v.first <= ? AND v.until > ?';
            array_push($values, $this->point->history_id, $this->point->instant, $this->point->instant);
        }
        foreach ($this->query->flags as $flag => $mustBe) {
            $where[] = ($mustBe ? '' : 'NOT ')."(p.name REGEXP ':2,[A-Za-z]*{$flag}[A-Za-z]*\$')"; // a letter of a fixed list
        }
        $parts = [];
        // The folder of a Maildir, or an mbox itself.
        foreach (['v.parent_id' => 'parent_span', 'v.path_id' => 'path_span'] as $of => $index) {
            $parts[] = "SELECT STRAIGHT_JOIN c.item_id FROM item_folders f JOIN versions v FORCE INDEX ($index) ON $of = f.path_id ".
                'JOIN paths p ON p.id = v.path_id JOIN item_contents c ON c.workload_id = f.workload_id AND c.digest = v.digest WHERE '.
                implode(' AND ', $where);
        }
        $this->demand('i.id IN ('.self::once(implode(' UNION ', $parts)).')', ...$values, ...$values);
    }

    private function demand(string $sql, mixed ...$values): void
    {
        $this->where[] = $sql;
        array_push($this->values, ...$values);
    }
}
