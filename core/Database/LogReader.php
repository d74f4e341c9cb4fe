<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use Kaiseki\Core\Archive\ByteStream;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Database\Internal\RowEvent;
use Kaiseki\Core\Database\Internal\RowLayout;
use Kaiseki\Core\Database\Internal\TransactionInHand;
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

    /** @var array<int, array{int, int}> domain => server and number of the last one committed */
    private array $domains = [];

    private bool $hasList = false;

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
        $hand = new TransactionInHand;
        $this->domains = [];
        try {
            $this->begin();
            while (($type = $this->next()) !== 0) {
                $ends = $this->take($hand, $type);
                if ($ends === true && $hand->isOpen()) {
                    $this->domains[$hand->domain] = [$hand->server, $hand->sequence];
                    $this->wholeUntil = $this->soundUntil;
                    $this->transactions++;
                    yield $hand->close($this->wholeUntil);
                } elseif ($ends !== null && ! $hand->isOpen()) {
                    $this->wholeUntil = $this->soundUntil;
                }
            }
            $this->noteEmpty();
            if ($hand->isOpen() && $this->problem === null) {
                $this->problem = "ends within the transaction at {$hand->start}";
            }
        } catch (UnexpectedValueException $wrong) {
            $this->problem = "cannot be understood at {$this->position}: {$wrong->getMessage()}";
        } finally {
            ksort($this->domains);
            $this->after = new GtidState($this->domains);
        }
    }

    /** @return bool|null whether the event in hand ends a transaction; null for one that stands within one */
    private function take(TransactionInHand $hand, int $type): ?bool
    {
        switch ($type) {
            case LogEvent::GTID:
                $hand->begin($this->buffer, $this->at, $this->position);

                return null;
            case LogEvent::ANNOTATE:
                $this->isHuge() || $hand->say($this->bodyOf(TransactionInHand::STATEMENT_BYTES));

                return null;
            case LogEvent::TABLE_MAP:
                $hand->map($this->bodyOf(PHP_INT_MAX));

                return null;
            case LogEvent::WRITE:
            case LogEvent::UPDATE:
            case LogEvent::DELETE:
            case 166:
            case 167:
            case 168:
                $this->takeRows($hand, $type);

                return null;
            case LogEvent::XID:
            case LogEvent::XA_PREPARE:
                return true;
            case LogEvent::QUERY:
            case LogEvent::QUERY_COMPRESSED:
                return $hand->query(...self::query($this->inHand($type)));
            case LogEvent::GTID_LIST:
                $this->takeList($this->inHand($type));
                break;
            case LogEvent::ROTATE:
                $this->next = substr($this->inHand($type)->body, 8);
                break;
        }

        return false;
    }

    private function takeRows(TransactionInHand $hand, int $type): void
    {
        $from = $this->at + self::HEADER;
        $layout = $hand->layoutOf($this->isHuge() ? null : substr($this->buffer, $from, 6));
        $count = match (true) {
            $this->isHuge() => 1,
            $type > LogEvent::DELETE => RowEvent::of($this->inHand($type), $layout->columns())->count($layout),
            default => $layout->count($this->buffer, $from, $from + $this->bodyBytes(), $type === LogEvent::UPDATE),
        };
        $hand->rows($layout, LogEvent::COMPRESSED_ROWS[$type] ?? $type, $count, ord($this->buffer[$from + 6] ?? "\0"));
    }

    /** The first list of a log says what was committed before it. */
    private function takeList(LogEvent $list): void
    {
        if (! $this->hasList) {
            $this->before = $this->after = self::gtidList($list->body);
            $this->domains = $this->before->domains;
            $this->server = $list->server;
            $this->hasList = true;
        }
    }

    private function bodyOf(int $most): string
    {
        return substr($this->buffer, $this->at + self::HEADER, min($most, $this->bodyBytes()));
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
}
