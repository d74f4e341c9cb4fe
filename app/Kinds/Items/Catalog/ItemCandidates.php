<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use App\Models\BackupSet;
use App\Models\Workload;
use Generator;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Mail\ItemField;
use Kaiseki\Core\Mail\ItemQuery;
use Kaiseki\Core\Mail\ItemSort;
use Kaiseki\Core\Mail\ItemTerm;
use stdClass;

/**
 * Which items may fit what is looked for, by what the indexes of the catalog know. Most searches end with some of the newest: those are
 * asked for first, and what costs more (under which names all lay) only where they do not suffice.
 */
final class ItemCandidates
{
    /** Seconds that a search may take. */
    private const PATIENCE = 20;

    /** Of so many that may fit it is looked at where they lay. */
    private const MOST = 200_000;

    private const AT_ONCE = 500;

    private const NEWEST = 2_000;

    /** Folders, of which all that lies in them is asked for at once. */
    private const FEW = 100;

    /** @var list<string> */
    private array $where;

    /** @var list<mixed> */
    private array $values;

    private ?bool $isWaiting = null;

    /** Whether it is asked for folders and flags only behind the newest. */
    private bool $asksLater = false;

    /**
     * @param  BackupSet|null  $point  null: whenever it was
     * @param  string|null  $only  the mailbox outside of which nothing is seen; null for all
     */
    public function __construct(
        private readonly Workload $workload,
        private readonly ItemQuery $query,
        private readonly ?BackupSet $point,
        private readonly ?string $only,
    ) {
        $this->where = ['i.workload_id = ?'];
        $this->values = [$workload->id];
    }

    /**
     * @param  int  $wanted  how many are to be found
     * @return Generator<list<int>> ids, the newest first
     */
    public function batches(int $wanted): Generator
    {
        $this->ask();
        $newest = $wanted > self::NEWEST ? [] : $this->ids(self::NEWEST);
        yield from self::parts(array_map(fn (stdClass $row): int => (int) $row->id, $newest), $wanted);
        if ($wanted <= self::NEWEST && count($newest) < self::NEWEST) {
            return;
        }
        $last = end($newest);
        if ($last !== false) {
            $this->demand('(i.received_at < ? OR i.received_at = ? AND i.id < ?)', $last->received_at, $last->received_at, $last->id);
        }
        ! $this->asksLater || $this->askFolders();
        yield from self::parts(array_map(fn (stdClass $row): int => (int) $row->id, $this->ids(self::MOST)), self::AT_ONCE);
    }

    /**
     * @param  list<int>  $ids
     * @return Generator<list<int>>
     */
    private static function parts(array $ids, int $first): Generator
    {
        $first = max(1, min($first, self::AT_ONCE));
        $ids === [] || yield array_slice($ids, 0, $first);
        yield from array_chunk(array_slice($ids, $first), self::AT_ONCE);
    }

    /** @return list<stdClass> of at most so many, the newest first */
    private function ids(int $most): array
    {
        return DB::select(
            'SET STATEMENT max_statement_time='.self::PATIENCE.' FOR SELECT i.id, i.received_at FROM items i WHERE '.
                implode(' AND ', $this->where)." ORDER BY i.received_at DESC, i.id DESC LIMIT $most",
            $this->values,
        );
    }

    /**
     * @param  list<int>  $ids
     * @return list<int> those that have each phrase that is asked for, in the same order
     */
    public function withPhrases(array $ids): array
    {
        foreach ($this->query->terms as $term) {
            if ($ids !== [] && $term->isPhrase && ! $term->isNegated && count($term->words) > 1) {
                $with = array_fill_keys($this->withPhrase($ids, $term), true);
                $ids = array_values(array_filter($ids, fn (int $id): bool => isset($with[$id])));
            }
        }

        return $ids;
    }

    /**
     * @param  list<int>  $ids
     * @return list<int>
     */
    private function withPhrase(array $ids, ItemTerm $term): array
    {
        $phrase = fn (?ItemField $field): string => ' '.implode(' ', array_map(
            fn (string $word): string => ($field?->mark() ?? '').$word,
            $term->words,
        )).' ';
        $in = 'item_id IN ('.implode(',', $ids).')';
        $fields = $term->field === null ? ItemField::cases() : [$term->field];
        $has = implode(' OR ', array_fill(0, count($fields), "INSTR(CONCAT(' ', terms, ' '), ?) > 0"));
        $asked = ["SELECT item_id FROM item_terms WHERE $in AND ($has)"];
        $values = array_map($phrase, $fields);
        if ($term->field === null) {
            $asked[] = "SELECT item_id FROM item_words WHERE $in AND INSTR(CONCAT(' ', words, ' '), ?) > 0";
            $values[] = $phrase(null);
        }

        return array_map(fn (stdClass $row): int => (int) $row->item_id, DB::select(implode(' UNION ', $asked), $values));
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
        if ($query->isGone === true) {
            $this->askEnded();
        }
        $this->asksLater = $this->isByPlace() && ! $this->isNarrow();
        if ($this->isByPlace() && ! $this->asksLater) {
            $this->askFolders();
        }
    }

    private function isByPlace(): bool
    {
        $query = $this->query;

        return $this->only !== null || $query->mailbox !== '' || $query->folder !== '' || $query->flags !== [];
    }

    /** Whether few folders are asked for: then it is best to begin with what lies in them. */
    private function isNarrow(): bool
    {
        [$where, $values] = $this->folders();
        if (count($where) === 1) {
            return false; // by flags alone
        }
        $sql = 'SELECT COUNT(*) FROM item_folders f WHERE '.implode(' AND ', $where);

        return (int) DB::scalar($sql, $values) <= self::FEW;
    }

    /** What is gone everywhere ended somewhere. */
    private function askEnded(): void
    {
        $this->demand(
            'i.id IN (SELECT STRAIGHT_JOIN c.item_id FROM histories h JOIN versions v FORCE INDEX (history_span) ON v.history_id = h.id '.
                'AND v.until < ? JOIN item_contents c ON c.workload_id = h.workload_id AND c.digest = v.digest WHERE h.workload_id = ?)',
            PHP_INT_MAX, $this->workload->id,
        );
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
        $anywhere = implode(' ', array_map(fn (ItemTerm $term): string => '+'.self::words($term, ''), $terms));
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
        $each = array_map(fn (ItemField $field): string => self::words($term, $field->mark()), $fields);

        return count($each) === 1 ? $each[0] : '('.implode(' ', $each).')';
    }

    /**
     * As the server's boolean mode has it: words are letters and digits alone, so that nothing of what people type is an operator. Of a
     * phrase that must be there all of its words: whether they follow each other is looked at afterwards, of no more than are shown; of
     * one that must not the server looks at all.
     */
    private static function words(ItemTerm $term, string $mark): string
    {
        $marked = array_map(fn (string $word): string => $mark.$word, $term->words);

        return match (true) {
            ! $term->isPhrase => "{$marked[0]}*",
            count($marked) === 1 => $marked[0],
            $term->isNegated => '"'.implode(' ', $marked).'"',
            default => '(+'.implode(' +', $marked).')',
        };
    }

    /** Those that lay in a folder of such a name, or under a name with such flags, at the point or whenever that was. */
    private function askFolders(): void
    {
        [$where, $values] = $this->folders();
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

    /** @return array{list<string>, list<mixed>} conditions of the folders that are asked for */
    private function folders(): array
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

        return [$where, $values];
    }

    private function demand(string $sql, mixed ...$values): void
    {
        $this->where[] = $sql;
        array_push($this->values, ...$values);
    }
}
