<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use Kaiseki\Core\Database\Internal\RowEvent;
use Kaiseki\Core\Database\Internal\RowLayout;

/**
 * Writes a binary log that holds what is to be rolled forward and nothing else: from one position to another, without
 * the transactions that are left out, and without what is about other schemas or tables. The tools' own filters are
 * not to be trusted with that (shared/design/facts-databases.md). Events are taken as they are; only the flag that ends
 * a statement moves to the last of its row events that stays.
 */
final class ReplayFile
{
    public int $transactions = 0;

    /** @var array<string, TableCount> "schema\0table" => what was written of it */
    public array $counts = [];

    /** @var array<string, true> default schemas of the statements in it */
    public array $defaults = [];

    /** @var list<string> statements that are about nothing that comes back, such as CREATE USER */
    public array $leftOut = [];

    /** @var array<string, true> "schema\0table" whose rows changed otherwise than the events say: TRUNCATE, ALTER, CASCADE ... */
    public array $uncounted = [];

    private readonly LogWriter $log;

    private string $held = '';

    private int $lastRows = -1;

    /**
     * @param  resource  $out
     * @param  list<string>|null  $schemas  null for all
     * @param  list<string>|null  $tables  of the one schema; null for all
     * @param  list<string>  $skip  GTIDs to leave out
     */
    public function __construct($out, private readonly ?array $schemas, private readonly ?array $tables, private readonly array $skip)
    {
        $this->log = new LogWriter($out);
    }

    /**
     * Takes one log in.
     *
     * @param  int  $from  only transactions that begin at or behind it
     * @param  int  $until  only transactions that end at or before it
     * @param  callable(int): void|null  $progress  told the bytes read
     */
    public function add(LogReader $log, int $from, int $until, ?callable $progress = null): void
    {
        $transaction = null;
        $wanted = true;
        $map = [];
        $touched = [];
        $flags = 0;
        $any = false;
        foreach ($log->events() as $event) {
            if ($event->type === LogEvent::FORMAT) {
                $this->log->write(LogWriter::same($event));

                continue;
            }
            if ($event->type === LogEvent::GTID) {
                if ($event->position >= $until) {
                    break;
                }
                $transaction = $event->gtid();
                $flags = ord($event->body[12]);
                $wanted = $event->position >= $from && ! in_array($transaction, $this->skip, true);
                [$this->held, $this->lastRows, $map, $touched] = [LogWriter::same($event), -1, [], []];
                $any = false;
                if ($progress !== null) {
                    $progress($event->position);
                }

                continue;
            }
            if ($transaction === null || ! $wanted) {
                if ($transaction !== null && ($event->type === LogEvent::XID || ($event->type === LogEvent::QUERY && ($flags & 1) !== 0))) {
                    $transaction = null;
                }

                continue;
            }
            $end = false;
            switch ($event->type) {
                case LogEvent::TABLE_MAP:
                    $layout = new RowLayout($event->body);
                    $map[$event->tableId()] = $layout;
                    if ($this->isWanted($layout->schema, $layout->table)) {
                        $touched["{$layout->schema}\0{$layout->table}"] ??= false;
                        $this->held .= LogWriter::same($event);
                    }
                    break;
                case LogEvent::WRITE: case LogEvent::UPDATE: case LogEvent::DELETE: case 166: case 167: case 168:
                    $layout = $event->body === '' ? end($map) : ($map[$event->tableId()] ?? false);
                    $ends = $event->body !== '' && (ord($event->body[6]) & 1) === 1;
                    if ($layout !== false && $this->isWanted($layout->schema, $layout->table)) {
                        $this->lastRows = strlen($this->held);
                        $this->held .= LogWriter::same($event);
                        $any = true;
                        $key = "{$layout->schema}\0{$layout->table}";
                        $touched[$key] = true;
                        $this->count($key, $layout, $event);
                        if ($ends) {
                            $this->lastRows = -1;
                        }
                    } elseif ($ends && $this->lastRows >= 0) {
                        $this->endStatement();
                    }
                    break;
                case LogEvent::QUERY: case LogEvent::QUERY_COMPRESSED:
                    [$default, $sql] = LogReader::query($event);
                    $word = strtoupper(substr($sql, 0, 9));
                    $end = $word === 'COMMIT' || $word === 'ROLLBACK' || ($flags & 1) !== 0;
                    if ($word === 'BEGIN' || $word === 'COMMIT' || $word === 'ROLLBACK' || str_starts_with($word, 'SAVEPOINT') || str_starts_with($word, 'ROLLBACK ')) {
                        $this->held .= LogWriter::same($event);
                        break;
                    }
                    $named = StatementTables::of($sql, $default);
                    $concerns = $this->concerns($named);
                    if ($concerns) {
                        $this->held .= LogWriter::same($event);
                        $any = true;
                        if ($default !== '') {
                            $this->defaults[$default] = true;
                        }
                        foreach ($named->tables as [$schema, $table]) {
                            $this->uncounted["$schema\0$table"] = true;
                        }
                    } elseif (count($this->leftOut) < 1000 && $named->isDefinition && $named->tables === []) {
                        $this->leftOut[] = mb_strcut(mb_scrub($sql), 0, 200);
                    }
                    break;
                case LogEvent::XID: case LogEvent::XA_PREPARE:
                    $this->held .= LogWriter::same($event);
                    $end = true;
                    break;
                case LogEvent::ROTATE: case LogEvent::STOP: case LogEvent::GTID_LIST: case 161:
                    break;
                default:
                    $this->held .= LogWriter::same($event);
            }
            if ($end) {
                if ($any) {
                    foreach ($touched as $key => $hasRows) {
                        if (! $hasRows) { // opened, and no rows of it: a foreign key may have removed some
                            $this->uncounted[(string) $key] = true;
                        }
                    }
                    $this->log->write($this->held);
                    $this->transactions++;
                }
                $transaction = null;
                $this->held = '';
            }
        }
    }

    private function isWanted(string $schema, string $table): bool
    {
        return ($this->schemas === null || in_array($schema, $this->schemas, true)) && ($this->tables === null || in_array($table, $this->tables, true));
    }

    private function concerns(StatementTables $statement): bool
    {
        if ($this->schemas === null) {
            return $statement->schema !== '' || $statement->tables !== [];
        }
        if ($statement->tables === []) {
            return $this->tables === null && in_array($statement->schema, $this->schemas, true);
        }
        foreach ($statement->tables as [$schema, $table]) {
            if ($this->isWanted($schema, $table)) {
                return true;
            }
        }

        return false;
    }

    private function count(string $key, RowLayout $layout, LogEvent $event): void
    {
        $count = $this->counts[$key] ??= new TableCount($layout->schema, $layout->table);
        $count->add((int) $event->rowKind(), $event->body === '' ? 1 : RowEvent::of($event, $layout->columns())->count($layout));
    }

    /** Sets the flag on the last row event that was kept. */
    private function endStatement(): void
    {
        $at = $this->lastRows;
        /** @var array{1: int} $length */
        $length = unpack('V', $this->held, $at + 9);
        $event = substr($this->held, $at, $length[1] - 4);
        $event[25] = chr(ord($event[25]) | 1);
        $this->held = substr($this->held, 0, $at).LogWriter::closed($event).substr($this->held, $at + $length[1]);
        $this->lastRows = -1;
    }
}
