<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use Kaiseki\Core\Archive\ByteStream;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Database\Internal\RowEvent;
use Kaiseki\Core\Database\Internal\RowLayout;
use UnexpectedValueException;

/**
 * A binary log of MariaDB, read from front to back with the checksum of every event (MariaDB knowledge base, "Replication
 * Protocol", and sql/log_event.h). What is wrong with it does not end in an error: whatever is before it can be used,
 * and `problem` says what is behind.
 */
final class LogReader
{
    public const MAGIC = "\xfebin";

    private const CHUNK = 1 << 20;

    /** A larger event is checked, but not kept: it is one huge row. */
    private const LARGEST_KEPT = 1 << 26;

    private const STATEMENT_BYTES = 2000;

    /** The version of the server that wrote it. */
    public string $version = '';

    public int $server = 0;

    /** What was committed before it. */
    public GtidState $before;

    /** What is committed at the end of what could be read of it. */
    public GtidState $after;

    /** Whether it was closed by its server. */
    public bool $isClosed = false;

    /** The log that follows, as its last event names it; '' if it does not. */
    public string $next = '';

    /** Behind the last event that is right. */
    public int $soundUntil = 0;

    /** Behind the last whole transaction that is right. */
    public int $wholeUntil = 0;

    /** What is wrong with it; null if nothing is. */
    public ?string $problem = null;

    /** Seconds since 1970 of its first event. */
    public int $startedAt = 0;

    public int $transactions = 0;

    private bool $hasChecksums = true;

    private string $buffer = '';

    private int $at = 0;

    private int $position = 4;

    /**
     * @param  ByteStream  $stream at the beginning of the log
     * @param  int  $largestKept  bytes of the largest event whose body is wanted
     */
    public function __construct(private readonly ByteStream $stream, private readonly int $largestKept = self::LARGEST_KEPT)
    {
        $this->before = $this->after = new GtidState;
    }

    /** @throws UnreadableLog if it is no binary log */
    private function begin(): void
    {
        try {
            $magic = $this->stream->read(4);
        } catch (UnreadableArchive $unreadable) {
            throw UnreadableLog::because($unreadable->getMessage());
        }
        if ($magic !== self::MAGIC) {
            throw UnreadableLog::because($magic === '' ? 'is empty' : 'is not a binary log: it does not begin with fe 62 69 6e');
        }
        $this->soundUntil = $this->wholeUntil = 4;
    }

    /**
     * @return iterable<LogEvent>
     *
     * @throws UnreadableLog if it is no binary log
     */
    public function events(): iterable
    {
        $this->begin();
        while (($event = $this->nextEvent()) !== null) {
            yield $event;
        }
        $this->noteEmpty();
    }

    private function noteEmpty(): void
    {
        if ($this->soundUntil === 4 && $this->problem === null) {
            $this->problem = 'holds nothing but its first four bytes';
        }
    }

    private function nextEvent(): ?LogEvent
    {
        if (strlen($this->buffer) - $this->at < 19 && ! $this->has(19)) {
            if ($this->problem === null && strlen($this->buffer) > $this->at) {
                $this->problem = "ends within the header of the event at {$this->position}";
            }

            return null;
        }
        /** @var array{ts: int, type: int, server: int, length: int, end: int, flags: int} $head */
        $head = unpack('Vts/Ctype/Vserver/Vlength/Vend/vflags', $this->buffer, $this->at);
        $length = $head['length'];
        $isFormat = $head['type'] === LogEvent::FORMAT;
        if ($length < 19 + ($this->hasChecksums ? 4 : 0)) {
            $this->problem = "has an event of $length bytes at {$this->position}, which cannot be";

            return null;
        }
        if ($length > $this->largestKept) {
            return $this->huge($head['type'], $head['ts'], $head['server'], $length, $head['flags']);
        }
        if (strlen($this->buffer) - $this->at < $length && ! $this->has($length)) {
            $this->problem ??= "ends within the event at {$this->position}";

            return null;
        }
        if ($isFormat) {
            $this->readFormat(substr($this->buffer, $this->at, $length), $head['ts']);
        }
        if ($this->hasChecksums || $isFormat) {
            $whole = substr($this->buffer, $this->at, $length - 4);
            if ($isFormat) {
                // The flag that it is in use is not in its checksum.
                $whole[17] = chr(ord($whole[17]) & 0xFE);
            }
            /** @var array{1: int} $crc */
            $crc = unpack('V', $this->buffer, $this->at + $length - 4);
            if (crc32($whole) !== $crc[1]) {
                $this->problem = "is damaged: the event at {$this->position} fails its checksum";

                return null;
            }
            $body = substr($whole, 19);
        } else {
            $body = substr($this->buffer, $this->at + 19, $length - 19);
        }
        if ($head['type'] === LogEvent::START_ENCRYPTION) {
            $this->problem = 'is encrypted; its server gives a readable copy with mariadb-binlog --read-from-remote-server --raw';

            return null;
        }
        $event = new LogEvent($head['type'], $head['ts'], $head['server'], $this->position, $length, $head['flags'], $body);
        $this->at += $length;
        $this->position += $length;
        $this->soundUntil = $this->position;

        return $event;
    }

    private function readFormat(string $event, int $at): void
    {
        $this->version = rtrim(substr($event, 21, 50), "\0");
        $this->isClosed = (ord($event[17]) & 1) === 0;
        $this->startedAt = $at;
        $this->hasChecksums = $event[strlen($event) - 5] === "\x01";
    }

    /** Checked without being held in memory. */
    private function huge(int $type, int $at, int $server, int $length, int $flags): ?LogEvent
    {
        $hash = hash_init('crc32b');
        $left = $length - ($this->hasChecksums ? 4 : 0);
        while ($left > 0 && $this->has(1)) {
            $part = substr($this->buffer, $this->at, $left);
            hash_update($hash, $part);
            $this->at += strlen($part);
            $left -= strlen($part);
        }
        if ($left > 0 || ($this->hasChecksums && ! $this->has(4))) {
            $this->problem ??= "ends within the event at {$this->position}";

            return null;
        }
        if ($this->hasChecksums) {
            if (strrev(hash_final($hash, true)) !== substr($this->buffer, $this->at, 4)) {
                $this->problem = "is damaged: the event at {$this->position} fails its checksum";

                return null;
            }
            $this->at += 4;
        }
        $event = new LogEvent($type, $at, $server, $this->position, $length, $flags, '');
        $this->position += $length;
        $this->soundUntil = $this->position;

        return $event;
    }

    /** Whether so many bytes are at hand, or can be read. */
    private function has(int $length): bool
    {
        $have = strlen($this->buffer) - $this->at;
        if ($have >= $length) {
            return true;
        }
        try {
            $more = $this->stream->read(max(self::CHUNK, $length - $have));
        } catch (UnreadableArchive $unreadable) {
            $this->problem ??= $unreadable->getMessage();
            $more = '';
        }
        $this->buffer = substr($this->buffer, $this->at).$more;
        $this->at = 0;

        return strlen($this->buffer) >= $length;
    }

    /**
     * The transactions, in the order in which they stand; only whole ones.
     *
     * @return iterable<LogTransaction>
     *
     * @throws UnreadableLog
     */
    public function transactions(): iterable
    {
        $gtid = null;
        $list = false;
        /** @var array<int, array{int, int}> $state */
        $state = [];
        try {
            /** @var array<string, RowLayout> $layouts */
            $layouts = [];
            /** @var array<string, RowLayout> $known maps as they were seen before */
            $known = [];
            $tables = [];
            $statement = $schema = '';
            [$domain, $sequence, $flags, $start, $at] = [0, 0, 0, 0, 0];
            $isDefinition = $hasText = false;
            $this->begin();
            while (($event = $this->nextEvent()) !== null) {
                $isEnd = $isUndone = false;
                switch ($event->type) {
                    case LogEvent::GTID:
                        /** @var array{seq: int, domain: int, flags: int} $head */
                        $head = unpack('Pseq/Vdomain/Cflags', $event->body);
                        [$domain, $sequence, $flags] = [$head['domain'], $head['seq'], $head['flags']];
                        $gtid = "$domain-{$event->server}-$sequence";
                        [$start, $at, $statement, $schema, $tables] = [$event->position, $event->at, '', '', []];
                        $isDefinition = ($flags & 32) !== 0;
                        $hasText = false;

                        continue 2;
                    case LogEvent::ANNOTATE:
                        if (strlen($statement) < self::STATEMENT_BYTES) {
                            $statement .= ($statement === '' ? '' : ";\n").substr($event->body, 0, self::STATEMENT_BYTES);
                        }

                        continue 2;
                    case LogEvent::TABLE_MAP:
                        try {
                            $layout = $known[$event->body] ??= new RowLayout($event->body);
                        } catch (UnexpectedValueException $wrong) {
                            $this->problem = "cannot be understood at {$event->position}: {$wrong->getMessage()}";

                            return;
                        }
                        $layouts[$event->tableId()] = $layout;
                        $key = "{$layout->schema}\0{$layout->table}";
                        $tables[$key] ??= new TableCount($layout->schema, $layout->table);
                        $schema = $schema === '' ? $layout->schema : $schema;

                        continue 2;
                    case LogEvent::WRITE: case LogEvent::UPDATE: case LogEvent::DELETE: case 166: case 167: case 168:
                        try {
                            if ($event->body === '') {
                                $layout = end($layouts) ?: throw new UnexpectedValueException('rows without a table map');
                                $count = 1;
                            } else {
                                $layout = $layouts[$event->tableId()] ?? throw new UnexpectedValueException('rows without a table map');
                                $count = RowEvent::of($event, $layout->columns())->count($layout);
                            }
                        } catch (UnexpectedValueException $wrong) {
                            $this->problem = "cannot be understood at {$event->position}: {$wrong->getMessage()}";

                            return;
                        }
                        $tables["{$layout->schema}\0{$layout->table}"]->add((int) $event->rowKind(), $count);

                        continue 2;
                    case LogEvent::XID: case LogEvent::XA_PREPARE:
                        $isEnd = true;
                        break;
                    case LogEvent::QUERY: case LogEvent::QUERY_COMPRESSED:
                        [$default, $sql] = self::query($event);
                        $word = strtoupper(substr($sql, 0, 9));
                        if ($word === 'COMMIT' || $word === 'ROLLBACK' || str_starts_with($word, 'XA ')) {
                            [$isEnd, $isUndone] = [true, $word === 'ROLLBACK'];
                            break;
                        }
                        if ($word !== 'BEGIN' && ! str_starts_with($word, 'SAVEPOINT') && ! str_starts_with($word, 'ROLLBACK ')) {
                            if (strlen($statement) < self::STATEMENT_BYTES) {
                                $statement .= ($statement === '' ? '' : ";\n").$sql;
                            }
                            $named = StatementTables::of($sql, $default);
                            $isDefinition = $isDefinition || $named->isDefinition;
                            $hasText = $hasText || $named->changesRows;
                            $schema = $schema === '' ? $named->schema : $schema;
                            foreach ($named->tables as [$inSchema, $table]) {
                                $tables["$inSchema\0$table"] ??= new TableCount($inSchema, $table);
                            }
                        }
                        $isEnd = ($flags & 1) !== 0;
                        break;
                    case LogEvent::GTID_LIST:
                        $begins = self::gtidList($event->body);
                        if (! $list) {
                            $this->before = $this->after = $begins;
                            $state = $begins->domains;
                            $this->server = $event->server;
                            $list = true;
                        }
                        $this->wholeUntil = max($this->wholeUntil, $gtid === null ? $event->position + $event->length : 0);
                        break;
                    case LogEvent::ROTATE:
                        $this->next = substr($event->body, 8);
                        $this->wholeUntil = $event->position + $event->length;
                        break;
                    default:
                        if ($gtid === null) {
                            $this->wholeUntil = $event->position + $event->length;
                        }
                }
                if ($isEnd && $gtid !== null) {
                    $state[$domain] = [$event->server, $sequence];
                    $this->wholeUntil = $event->position + $event->length;
                    $this->transactions++;
                    yield new LogTransaction(
                        $gtid, $start, $this->wholeUntil, $at, $schema, array_values($tables), $statement === '' ? '' : self::shown($statement), $isDefinition, $hasText, $isUndone,
                    );
                    $gtid = null;
                }
            }
            $this->noteEmpty();
            if ($gtid !== null && $this->problem === null) {
                $this->problem = "ends within the transaction at $start";
            }
        } finally {
            ksort($state);
            $this->after = new GtidState($state);
        }
    }

    /** @return array{string, string} the default schema, and the statement */
    public static function query(LogEvent $event): array
    {
        if (strlen($event->body) < 13) {
            return ['', ''];
        }
        /** @var array{schema: int, status: int} $head */
        $head = unpack('Cschema/verr/vstatus', $event->body, 8);
        $at = 13 + $head['status'];
        $rest = substr($event->body, $at + $head['schema'] + 1);
        if ($event->type === LogEvent::QUERY_COMPRESSED) {
            try {
                $rest = RowEvent::inflated($rest);
            } catch (UnexpectedValueException) {
                $rest = '';
            }
        }

        return [substr($event->body, $at, $head['schema']), $rest];
    }

    private static function gtidList(string $body): GtidState
    {
        $state = new GtidState;
        $count = RowLayout::little(substr($body, 0, 4)) & 0x0FFFFFFF;
        for ($i = 0; $i < $count && strlen($body) >= 4 + 16 * ($i + 1); $i++) {
            /** @var array{domain: int, server: int, seq: int} $one */
            $one = unpack('Vdomain/Vserver/Pseq', $body, 4 + 16 * $i);
            $state = $state->with($one['domain'], $one['server'], $one['seq']);
        }

        return $state;
    }

    /** As it may be shown: bounded, UTF-8, and without passwords. */
    private static function shown(string $statement): string
    {
        if (strlen($statement) > self::STATEMENT_BYTES || preg_match('/[\x80-\xff]/', $statement) === 1) {
            $statement = mb_strcut(mb_scrub($statement, 'UTF-8'), 0, self::STATEMENT_BYTES, 'UTF-8');
        }
        if (stripos($statement, 'pass') === false && stripos($statement, 'identified') === false) {
            return $statement;
        }

        return preg_replace('/\b(IDENTIFIED\s+(?:BY(?:\s+PASSWORD)?|(?:VIA|WITH)\s+\S+\s+(?:USING|AS))|PASSWORD\s*(?:=|\()|PASSWORD\s+FOR\s+\S+\s*=\s*(?:PASSWORD\s*\()?|MASTER_PASSWORD\s*=)\s*(?:\'(?:[^\'\\\\]|\\\\.|\'\')*+\'?|"(?:[^"\\\\]|\\\\.|"")*+"?)/i', "$1 '***'", $statement) ?? '(not shown)';
    }
}
