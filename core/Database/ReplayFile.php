<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use Kaiseki\Core\Database\Internal\OpenTables;
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

    /** @var array<string, true> schemas that statements in it are run in, or name */
    public array $schemasNamed = [];

    /** Statements in it that change rows and stand in the log as text: they run again. */
    public int $texts = 0;

    /** @var list<string> statements that are about nothing that comes back, such as CREATE USER */
    public array $leftOut = [];

    /** @var array<string, true> "schema\0table" whose rows changed otherwise than the events say: TRUNCATE, ALTER, CASCADE ... */
    public array $uncounted = [];

    /** Events are written in pieces of so many bytes: a transaction may be larger than memory. */
    private const PIECE = 1 << 20;

    /** Of a GTID event: that it has no COMMIT of its own. */
    private const STANDALONE = 1;

    private readonly LogWriter $log;

    /** What is not written yet of the transaction in hand. */
    private string $held = '';

    /** Where the last row event that was kept begins in it; -1 where its statement is ended. */
    private int $lastRows = -1;

    /** Whether the transaction in hand holds anything that is wanted. */
    private bool $any = false;

    /** @var array<string, RowLayout> by table id */
    private array $maps = [];

    private readonly OpenTables $open;

    /** @var array<string, bool> prepared transactions by their names, as XA statements have them => whether they were written */
    private array $prepared = [];

    private string $xa = '';

    /** @var array<string, list<string>|null> those of the schemas to which the transaction in hand is to come */
    private array $now = [];

    /**
     * @param  resource  $out
     * @param  array<string, list<string>|null>  $schemas  schema => its tables; null for all of them
     * @param  list<string>  $skip  GTIDs to leave out
     * @param  array<string, true>  $unchecked  "schema\0table" whose foreign keys are not looked at when its rows change
     */
    public function __construct($out, private readonly array $schemas, private readonly array $skip, private readonly array $unchecked = [])
    {
        $this->log = new LogWriter($out);
        $this->open = new OpenTables;
    }

    /**
     * Takes one log in.
     *
     * @param  array<string, array{int, int}>  $spans  schema => of what is about it, only transactions that begin at or behind the first
     *     offset and end at or before the second
     */
    public function add(LogReader $log, array $spans): void
    {
        $until = max(0, ...array_values(array_map(fn (array $span): int => $span[1], $spans)));
        $isInside = false;
        $flags = 0;
        foreach ($log->events() as $event) {
            if ($event->type === LogEvent::FORMAT) {
                $this->log->write(LogWriter::same($event));
            } elseif ($event->type === LogEvent::GTID) {
                if ($event->position >= $until) {
                    return;
                }
                $this->now = array_intersect_key(
                    $this->schemas,
                    array_filter($spans, fn (array $span): bool => $event->position >= $span[0] && $event->position < $span[1]),
                );
                $isInside = $this->now !== [] && ! in_array($event->gtid(), $this->skip, true);
                $flags = ord($event->body[12]);
                $this->begin($event);
            } elseif ($isInside && $this->takes($event, ($flags & self::STANDALONE) !== 0)) {
                $this->end();
                $isInside = false;
            }
        }
    }

    private function begin(LogEvent $event): void
    {
        [$this->held, $this->lastRows, $this->any, $this->maps, $this->xa] = [LogWriter::same($event), -1, false, [], ''];
        $this->open->end();
    }

    private function end(): void
    {
        if ($this->xa !== '') {
            $this->prepared[$this->xa] = $this->any;
        }
        if (! $this->any) {
            return;
        }
        $this->uncounted += array_fill_keys($this->open->end(), true);
        $this->log->write($this->held);
        $this->held = '';
        $this->transactions++;
    }

    /** @return bool whether the transaction ends with it */
    private function takes(LogEvent $event, bool $isStandalone): bool
    {
        switch ($event->type) {
            case LogEvent::TABLE_MAP:
                $this->map($event);

                return false;
            case LogEvent::WRITE:
            case LogEvent::UPDATE:
            case LogEvent::DELETE:
            case 166:
            case 167:
            case 168:
                $this->rows($event);

                return false;
            case LogEvent::QUERY:
            case LogEvent::QUERY_COMPRESSED:
                return $this->statement($event) || $isStandalone;
            case LogEvent::ROTATE:
            case LogEvent::STOP:
            case LogEvent::GTID_LIST:
            case LogEvent::CHECKPOINT:
                return false;
            default:
                $this->held .= LogWriter::same($event);

                return $event->type === LogEvent::XID || $event->type === LogEvent::XA_PREPARE;
        }
    }

    private function map(LogEvent $event): void
    {
        $layout = new RowLayout($event->body);
        $this->maps[$event->tableId()] = $layout;
        if ($this->isWanted($layout->schema, $layout->table)) {
            $this->open->map($layout->name);
            $this->held .= LogWriter::same($event);
        }
    }

    private function rows(LogEvent $event): void
    {
        $layout = $this->maps[$event->tableId()] ?? throw UnreadableLog::because("has rows without a table map at {$event->position}");
        $ends = (ord($event->body[6]) & RowEvent::ENDS) !== 0;
        $this->uncounted += array_fill_keys($this->open->rows($layout->name, ord($event->body[6])), true);
        if (! $this->isWanted($layout->schema, $layout->table)) {
            if ($ends && $this->lastRows >= 0) {
                $this->flagLast(RowEvent::ENDS);
                $this->lastRows = -1;
            }

            return;
        }
        $this->writeSome();
        $key = $layout->name;
        $this->lastRows = strlen($this->held);
        $this->held .= LogWriter::same($event);
        if (isset($this->unchecked[$key])) {
            $this->flagLast(RowEvent::UNCHECKED);
        }
        $this->lastRows = $ends ? -1 : $this->lastRows;
        $this->any = true;
        $count = $this->counts[$key] ??= new TableCount($layout->schema, $layout->table);
        $count->add((int) $event->rowKind(), RowEvent::of($event, $layout->columns())->count($layout));
    }

    /** All but the last row event, whose flag may still change. */
    private function writeSome(): void
    {
        if (! $this->any || strlen($this->held) < self::PIECE) {
            return;
        }
        $until = $this->lastRows < 0 ? strlen($this->held) : $this->lastRows;
        $this->log->write(substr($this->held, 0, $until));
        $this->held = substr($this->held, $until);
        $this->lastRows = min($this->lastRows, 0);
    }

    /** @return bool whether the transaction ends with it */
    private function statement(LogEvent $event): bool
    {
        [$default, $sql] = LogReader::query($event);
        $word = strtoupper(substr($sql, 0, 9));
        if (str_starts_with($word, 'XA ')) {
            return $this->xa($event, $sql);
        }
        $ends = $word === 'COMMIT' || $word === 'ROLLBACK';
        if ($ends || $word === 'BEGIN' || str_starts_with($word, 'SAVEPOINT') || str_starts_with($word, 'ROLLBACK ')) {
            $this->held .= LogWriter::same($event);

            return $ends;
        }
        $named = StatementTables::of($sql, $default);
        if (! $named->isOfServer && $this->concerns($named)) {
            $this->held .= LogWriter::same($event);
            $this->any = true;
            $this->texts += $named->changesRows ? 1 : 0;
            $this->schemasNamed += array_fill_keys(
                array_filter([$default, ...array_column($named->tables, 0)], fn (string $schema): bool => $schema !== ''),
                true,
            );
            foreach ($named->tables as [$schema, $table]) {
                $this->uncounted["$schema\0$table"] = true;
            }
        } elseif ($named->isDefinition && $named->tables === []) {
            $this->leaveOut($sql);
        }

        return false;
    }

    /**
     * What was prepared is committed later, by a transaction of its own that names it and nothing else: that comes along if the other
     * did.
     */
    private function xa(LogEvent $event, string $sql): bool
    {
        preg_match('/^XA (END|COMMIT|ROLLBACK) (.+)$/is', $sql, $m);
        if (strtoupper($m[1] ?? '') === 'END') {
            $this->xa = $m[2];
            $this->held .= LogWriter::same($event);

            return false;
        }
        $isWritten = $this->prepared[$m[2] ?? ''] ?? null;
        if ($isWritten === true) {
            $this->held .= LogWriter::same($event);
            $this->any = true;
        } elseif ($isWritten === null) {
            // prepared before the dump was made
            $this->leaveOut($sql);
        }
        unset($this->prepared[$m[2] ?? '']);

        return true;
    }

    private function leaveOut(string $sql): void
    {
        if (count($this->leftOut) < 1000) {
            $this->leftOut[] = mb_strcut(mb_scrub($sql), 0, 200);
        }
    }

    private function isWanted(string $schema, string $table): bool
    {
        return array_key_exists($schema, $this->now) && ($this->now[$schema] === null || in_array($table, $this->now[$schema], true));
    }

    private function concerns(StatementTables $statement): bool
    {
        if ($statement->tables === []) {
            return array_key_exists($statement->schema, $this->now) && $this->now[$statement->schema] === null;
        }
        foreach ($statement->tables as [$schema, $table]) {
            if ($this->isWanted($schema, $table)) {
                return true;
            }
        }

        return false;
    }

    /** Sets a flag on the last row event that was kept. */
    private function flagLast(int $flag): void
    {
        $at = $this->lastRows;
        /** @var array{1: int} $length */
        $length = unpack('V', $this->held, $at + 9);
        $event = substr($this->held, $at, $length[1] - 4);
        $event[25] = chr(ord($event[25]) | $flag);
        $this->held = substr($this->held, 0, $at).LogWriter::closed($event).substr($this->held, $at + $length[1]);
    }
}
