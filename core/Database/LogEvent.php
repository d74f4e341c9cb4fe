<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

/** One event of a binary log, whose checksum was found right. */
final readonly class LogEvent
{
    public const QUERY = 2;

    public const STOP = 3;

    public const ROTATE = 4;

    public const FORMAT = 15;

    public const XID = 16;

    public const TABLE_MAP = 19;

    public const WRITE = 23;

    public const UPDATE = 24;

    public const DELETE = 25;

    public const XA_PREPARE = 38;

    public const ANNOTATE = 160;

    public const CHECKPOINT = 161;

    public const GTID = 162;

    public const GTID_LIST = 163;

    public const START_ENCRYPTION = 164;

    public const QUERY_COMPRESSED = 165;

    /** The compressed kinds of WRITE, UPDATE and DELETE. */
    public const COMPRESSED_ROWS = [166 => self::WRITE, 167 => self::UPDATE, 168 => self::DELETE];

    public function __construct(
        public int $type,
        /** Seconds since 1970. */
        public int $at,
        public int $server,
        /** Offset in the log. */
        public int $position,
        /** Bytes, with header and checksum. */
        public int $length,
        public int $flags,
        /** Without header and checksum; '' for one too large to be kept. */
        public string $body,
    ) {
    }

    /** Of a GTID event: the name of the transaction that it begins. */
    public function gtid(): string
    {
        /** @var array{seq: int, domain: int} $head */
        $head = unpack('Pseq/Vdomain', $this->body);

        return "{$head['domain']}-{$this->server}-{$head['seq']}";
    }

    /** WRITE, UPDATE or DELETE, also of a compressed one; null for an event without rows. */
    public function rowKind(): ?int
    {
        return self::COMPRESSED_ROWS[$this->type] ?? ($this->type >= self::WRITE && $this->type <= self::DELETE ? $this->type : null);
    }

    /** Of a table map or a row event: what ties them together. */
    public function tableId(): string
    {
        return substr($this->body, 0, 6);
    }
}
