<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use Kaiseki\Core\Archive\ByteStream;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Database\Internal\OpenTables;
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

    private const HEADER = 19;

    /** What CRC-32 gives of bytes with their own CRC-32 behind them, least significant byte first. */
    private const RESIDUE = 0x2144DF1C;

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

    /** Where the event in hand begins in the buffer, and how long it is: if it is too large to be kept, only its header is there. */
    private int $at = 0;

    private int $length = 0;

    /** Where the next one begins in the buffer. */
    private int $following = 0;

    /** Where it begins in the log. */
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
        while (($type = $this->next()) !== 0) {
            yield $this->inHand($type);
        }
        $this->noteEmpty();
    }

    private function noteEmpty(): void
    {
        if ($this->soundUntil === 4 && $this->problem === null) {
            $this->problem = 'holds nothing but its first four bytes';
        }
    }

    private function isHuge(): bool
    {
        return $this->length > $this->largestKept;
    }

    private function bodyBytes(): int
    {
        return $this->length - self::HEADER - ($this->hasChecksums ? 4 : 0);
    }

    /** Goes to the next event, and finds its checksum right. @return int its type; 0 where there is none */
    private function next(): int
    {
        $this->position = $this->soundUntil;
        if (strlen($this->buffer) - $this->following < self::HEADER && ! $this->has(self::HEADER)) {
            if ($this->problem === null && strlen($this->buffer) > $this->following) {
                $this->problem = "ends within the header of the event at {$this->position}";
            }

            return 0;
        }
        $at = $this->following;
        /** @var array{1: int} $length */
        $length = unpack('V', $this->buffer, $at + 9);
        $length = $length[1];
        $type = ord($this->buffer[$at + 4]);
        if ($length < self::HEADER + 4 && ($this->hasChecksums || $length < self::HEADER)) {
            $this->problem = "has an event of $length bytes at {$this->position}, which cannot be";

            return 0;
        }
        if ($length > $this->largestKept) {
            return $this->huge($type, $length);
        }
        if (strlen($this->buffer) - $at < $length) {
            if (! $this->has($length)) {
                $this->problem ??= "ends within the event at {$this->position}";

                return 0;
            }
            $at = $this->following;
        }
        if (
            ! ($type === LogEvent::FORMAT
                ? $this->readFormat($length)
                : ! $this->hasChecksums || crc32(substr($this->buffer, $at, $length)) === self::RESIDUE)
        ) {
            $this->problem = "is damaged: the event at {$this->position} fails its checksum";

            return 0;
        }
        if ($type === LogEvent::START_ENCRYPTION) {
            $this->problem = 'is encrypted; its server gives a readable copy with mariadb-binlog --read-from-remote-server --raw';

            return 0;
        }
        $this->at = $at;
        $this->length = $length;
        $this->following = $at + $length;
        $this->soundUntil += $length;

        return $type;
    }

    /** @return bool whether its checksum is right */
    private function readFormat(int $length): bool
    {
        $event = substr($this->buffer, $this->following, $length);
        $this->version = rtrim(substr($event, 21, 50), "\0");
        $this->isClosed = (ord($event[17]) & 1) === 0;
        /** @var array{1: int} $at */
        $at = unpack('V', $event);
        $this->startedAt = $at[1];
        $this->hasChecksums = $event[$length - 5] === "\x01";
        $event[17] = chr(ord($event[17]) & 0xFE); // the flag that it is in use is not in its checksum

        return crc32($event) === self::RESIDUE;
    }

    /** Checked without being held in memory. */
    private function huge(int $type, int $length): int
    {
        $header = substr($this->buffer, $this->following, self::HEADER);
        $hash = hash_init('crc32b');
        for ($left = $length; $left > 0 && $this->has(1); $left -= strlen($part)) {
            $part = substr($this->buffer, $this->following, $left);
            hash_update($hash, $part);
            $this->following += strlen($part);
        }
        if ($left > 0) {
            $this->problem ??= "ends within the event at {$this->position}";

            return 0;
        }
        if ($this->hasChecksums && hexdec(hash_final($hash)) !== self::RESIDUE) {
            $this->problem = "is damaged: the event at {$this->position} fails its checksum";

            return 0;
        }
        $this->buffer = $header.substr($this->buffer, $this->following);
        [$this->at, $this->length, $this->following] = [0, $length, self::HEADER];
        $this->soundUntil += $length;

        return $type;
    }

    /** Whether so many bytes are at hand, or can be read. */
    private function has(int $length): bool
    {
        $have = strlen($this->buffer) - $this->following;
        if ($have >= $length) {
            return true;
        }
        try {
            $more = $this->stream->read(max(self::CHUNK, $length - $have));
        } catch (UnreadableArchive $unreadable) {
            $this->problem ??= $unreadable->getMessage();
            $more = '';
        }
        $this->buffer = substr($this->buffer, $this->following).$more;
        $this->following = 0;

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
            /** @var array<string, RowLayout> $layouts by table id */
            $layouts = [];
            /** @var array<string, RowLayout> $known maps as they were seen before */
            $known = [];
            /** @var array<string, TableCount> $tables */
            $tables = [];
            $layout = null;
            $open = new OpenTables;
            $statement = $schema = '';
            [$domain, $server, $sequence, $flags, $start, $at] = [0, 0, 0, 0, 0, 0];
            $isDefinition = $hasText = false;
            $this->begin();
            while (($type = $this->next()) !== 0) {
                $isEnd = $isUndone = false;
                switch ($type) {
                    case LogEvent::GTID:
                        /** @var array{ts: int, server: int, seq: int, domain: int, flags: int} $head */
                        $head = unpack('Vts/x/Vserver/x10/Pseq/Vdomain/Cflags', $this->buffer, $this->at);
                        ['ts' => $at, 'server' => $server, 'seq' => $sequence, 'domain' => $domain, 'flags' => $flags] = $head;
                        $gtid = "$domain-$server-$sequence";
                        $start = $this->position;
                        $statement = $schema = '';
                        $tables = [];
                        $isDefinition = ($flags & 32) !== 0;
                        $hasText = false;

                        continue 2;
                    case LogEvent::ANNOTATE:
                        if (strlen($statement) < self::STATEMENT_BYTES && ! $this->isHuge()) {
                            $statement .=
                                ($statement === '' ? '' : ";\n").
                                substr($this->buffer, $this->at + self::HEADER, min(self::STATEMENT_BYTES, $this->bodyBytes()));
                        }

                        continue 2;
                    case LogEvent::TABLE_MAP:
                        $body = substr($this->buffer, $this->at + self::HEADER, $this->bodyBytes());
                        $layout = $known[$body] ??= new RowLayout($body);
                        $layouts[substr($body, 0, 6)] = $layout;
                        $tables[$layout->name] ??= new TableCount($layout->schema, $layout->table);
                        $open->map($layout->name);
                        if ($schema === '') {
                            $schema = $layout->schema;
                        }

                        continue 2;
                    case LogEvent::WRITE:
                    case LogEvent::UPDATE:
                    case LogEvent::DELETE:
                    case 166:
                    case 167:
                    case 168:
                        if (! $this->isHuge()) {
                            $layout = $layouts[substr($this->buffer, $this->at + self::HEADER, 6)] ?? null;
                        }
                        $of = $layout === null ? throw new UnexpectedValueException('rows without a table map') : $tables[$layout->name];
                        $count = match (true) {
                            $this->isHuge() => 1,
                            $type > LogEvent::DELETE => RowEvent::of($this->inHand($type), $layout->columns())->count($layout),
                            default => $layout->count(
                                $this->buffer,
                                $this->at + self::HEADER,
                                $this->at + self::HEADER + $this->bodyBytes(),
                                $type === LogEvent::UPDATE,
                            ),
                        };
                        $of->add(LogEvent::COMPRESSED_ROWS[$type] ?? $type, $count);
                        foreach ($open->rows($layout->name, ord($this->buffer[$this->at + self::HEADER + 6] ?? "\0")) as $name) {
                            $tables[$name]->mayHaveLost = true;
                        }

                        continue 2;
                    case LogEvent::XID:
                    case LogEvent::XA_PREPARE:
                        $isEnd = true;
                        break;
                    case LogEvent::QUERY:
                    case LogEvent::QUERY_COMPRESSED:
                        [$default, $sql] = self::query($this->inHand($type));
                        $word = strtoupper(substr($sql, 0, 9));
                        if ($word === 'COMMIT' || $word === 'ROLLBACK') {
                            [$isEnd, $isUndone] = [true, $word === 'ROLLBACK'];
                            break;
                        }
                        if (
                            $word !== 'BEGIN' &&
                            ! str_starts_with($word, 'SAVEPOINT') &&
                            ! str_starts_with($word, 'ROLLBACK ') &&
                            ! str_starts_with($word, 'XA END')
                        ) {
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
                        $isEnd = ($flags & 1) !== 0 || (str_starts_with($word, 'XA ') && ! str_starts_with($word, 'XA END'));
                        break;
                    case LogEvent::GTID_LIST:
                        if (! $list) {
                            $begins = $this->inHand($type);
                            $this->before = $this->after = self::gtidList($begins->body);
                            $state = $this->before->domains;
                            $this->server = $begins->server;
                            $list = true;
                        }
                        break;
                    case LogEvent::ROTATE:
                        $this->next = substr($this->inHand($type)->body, 8);
                        break;
                }
                if ($isEnd && $gtid !== null) {
                    foreach ($open->end() as $name) {
                        $tables[$name]->mayHaveLost = true;
                    }
                    $state[$domain] = [$server, $sequence];
                    $this->wholeUntil = $this->soundUntil;
                    $this->transactions++;
                    yield new LogTransaction(
                        $gtid,
                        $start,
                        $this->wholeUntil,
                        $at,
                        $schema,
                        array_values($tables),
                        $statement === '' ? '' : self::shown($statement),
                        $isDefinition,
                        $hasText,
                        $isUndone,
                    );
                    $gtid = null;
                } elseif ($gtid === null) {
                    $this->wholeUntil = $this->soundUntil;
                }
            }
            $this->noteEmpty();
            if ($gtid !== null && $this->problem === null) {
                $this->problem = "ends within the transaction at $start";
            }
        } catch (UnexpectedValueException $wrong) {
            $this->problem = "cannot be understood at {$this->position}: {$wrong->getMessage()}";
        } finally {
            ksort($state);
            $this->after = new GtidState($state);
        }
    }

    private function inHand(int $type): LogEvent
    {
        /** @var array{ts: int, server: int, flags: int} $head */
        $head = unpack('Vts/x/Vserver/x8/vflags', $this->buffer, $this->at);

        return new LogEvent(
            $type,
            $head['ts'],
            $head['server'],
            $this->position,
            $this->length,
            $head['flags'],
            $this->isHuge() ? '' : substr($this->buffer, $this->at + self::HEADER, $this->bodyBytes()),
        );
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
        if (strlen($statement) <= self::STATEMENT_BYTES && preg_match('/[\x80-\xff]|pass|identified/i', $statement) !== 1) {
            return $statement;
        }
        $statement = mb_strcut(mb_scrub($statement, 'UTF-8'), 0, self::STATEMENT_BYTES, 'UTF-8');

        return preg_replace(
            '/\b(IDENTIFIED\s+(?:BY(?:\s+PASSWORD)?|(?:VIA|WITH)\s+\S+\s+(?:USING|AS))|PASSWORD\s*(?:=|\()|'.
                'PASSWORD\s+FOR\s+\S+\s*=\s*(?:PASSWORD\s*\()?|MASTER_PASSWORD\s*=)\s*'.
                '(?:\'(?:[^\'\\\\]|\\\\.|\'\')*+\'?|"(?:[^"\\\\]|\\\\.|"")*+"?)/i',
            "$1 '***'",
            $statement,
        ) ?? '(not shown)';
    }
}
