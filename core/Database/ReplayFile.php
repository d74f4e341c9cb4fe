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

    public int $bytes = 0;

    /** @var array<string, TableCount> "schema\0table" => what was written of it */
    public array $counts = [];

    /** @var array<string, true> default schemas of the statements in it */
    public array $defaults = [];

    /** @var list<string> statements that are about nothing that comes back, such as CREATE USER */
    public array $leftOut = [];

    /** @var array<string, true> "schema\0table" whose rows changed otherwise than the events say: TRUNCATE, ALTER, CASCADE ... */
    public array $uncounted = [];

    private string $held = '';

    private int $lastRows = -1;

    /**
     * @param  resource  $out
     * @param  list<string>|null  $schemas  null for all
     * @param  list<string>|null  $tables  of the one schema; null for all
     * @param  list<string>  $skip  GTIDs to leave out
     */
    public function __construct(private $out, private readonly ?array $schemas, private readonly ?array $tables, private readonly array $skip)
    {
        $this->write(LogReader::MAGIC);
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
                $this->write($this->raw($event));

                continue;
            }
            if ($event->type === LogEvent::GTID) {
                if ($event->position >= $until) {
                    break;
                }
                /** @var array{seq: int, domain: int, flags: int} $head */
                $head = unpack('Pseq/Vdomain/Cflags', $event->body);
                $transaction = "{$head['domain']}-{$event->server}-{$head['seq']}";
                $flags = $head['flags'];
                $wanted = $event->position >= $from && ! in_array($transaction, $this->skip, true);
                [$this->held, $this->lastRows, $map, $touched] = [$this->raw($event), -1, [], []];
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
                    $map[RowLayout::little(substr($event->body, 0, 6))] = $layout;
                    if ($this->isWanted($layout->schema, $layout->table)) {
                        $touched["{$layout->schema}\0{$layout->table}"] ??= false;
                        $this->held .= $this->raw($event);
                    }
                    break;
                case LogEvent::WRITE: case LogEvent::UPDATE: case LogEvent::DELETE: case 166: case 167: case 168:
                    $layout = $event->body === '' ? end($map) : ($map[RowLayout::little(substr($event->body, 0, 6))] ?? false);
                    $ends = $event->body !== '' && (ord($event->body[6]) & 1) === 1;
                    if ($layout !== false && $this->isWanted($layout->schema, $layout->table)) {
                        $this->lastRows = strlen($this->held);
                        $this->held .= $this->raw($event);
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
                        $this->held .= $this->raw($event);
                        break;
                    }
                    $named = StatementTables::of($sql, $default);
                    $concerns = $this->concerns($named, $default);
                    if ($concerns) {
                        $this->held .= $this->raw($event);
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
                    $this->held .= $this->raw($event);
                    $end = true;
                    break;
                case LogEvent::ROTATE: case LogEvent::STOP: case LogEvent::GTID_LIST: case 161:
                    break;
                default:
                    $this->held .= $this->raw($event);
            }
            if ($end) {
                if ($any) {
                    foreach ($touched as $key => $hasRows) {
                        if (! $hasRows) { // opened, and no rows of it: a foreign key may have removed some
                            $this->uncounted[(string) $key] = true;
                        }
                    }
                    $this->write($this->held);
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

    private function concerns(StatementTables $statement, string $default): bool
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
        $rows = $event->body === '' ? 1 : RowEvent::of($event, $layout->columns())->count($layout);
        match (LogEvent::COMPRESSED_ROWS[$event->type] ?? $event->type) {
            LogEvent::WRITE => $count->inserted += $rows,
            LogEvent::UPDATE => $count->updated += $rows,
            default => $count->deleted += $rows,
        };
    }

    /** Sets the flag on the last row event that was kept. */
    private function endStatement(): void
    {
        $at = $this->lastRows;
        /** @var array{1: int} $length */
        $length = unpack('V', $this->held, $at + 9);
        $event = substr($this->held, $at, $length[1] - 4);
        $event[25] = chr(ord($event[25]) | 1);
        $this->held = substr($this->held, 0, $at).$event.strrev(hash('crc32b', $event, true)).substr($this->held, $at + $length[1]);
        $this->lastRows = -1;
    }

    /** The event's bytes anew, with a checksum. */
    private function raw(LogEvent $event): string
    {
        return self::event($event->type, $event->at, $event->server, $event->flags, $event->body);
    }

    /** An event as it stands in a log whose events have checksums. */
    public static function event(int $type, int $at, int $server, int $flags, string $body): string
    {
        if ($type === LogEvent::FORMAT) {
            $flags &= ~1;
            $body = substr($body, 0, -1)."\x01";
        }
        $bytes = pack('VCVVVv', $at, $type, $server, strlen($body) + 23, 0, $flags).$body;

        return $bytes.strrev(hash('crc32b', $bytes, true));
    }

    private function write(string $bytes): void
    {
        if (@fwrite($this->out, $bytes) !== strlen($bytes)) {
            throw UnreadableLog::because('could not be copied: is the disk full?');
        }
        $this->bytes += strlen($bytes);
    }
}
