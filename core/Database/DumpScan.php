<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use Closure;

/**
 * Goes through a dump as mariadb-dump and its relatives write it (their comments tell what follows), and tells its
 * sections. Inside the bodies of routines nothing is taken for a comment: they stand between DELIMITER lines.
 */
final class DumpScan
{
    private const MARKERS = [
        'Table structure for table' => DumpSection::TABLE,
        'Dumping data for table' => DumpSection::DATA,
        'Sequence structure for' => DumpSection::SEQUENCE,
        'Temporary table structure for view' => DumpSection::VIEW_STUB,
        'Temporary view structure for view' => DumpSection::VIEW_STUB,
        'Final view structure for view' => DumpSection::VIEW,
        'Dumping events for database' => DumpSection::EVENTS,
        'Dumping routines for database' => DumpSection::ROUTINES,
        'Current Database:' => DumpSection::SCHEMA,
        'The deferred gtid setting' => DumpSection::TRAILER,
    ];

    /** The beginning of a line tells what it is. */
    private const LINE_KEPT = 8192;

    /** Bytes in which a dump has shown that it is one. */
    private const HEAD = 1 << 16;

    /** @var list<DumpSection> */
    public array $sections = [];

    public string $host = '';

    /** The one schema that it is of, as its head says; '' for several. */
    public string $schema = '';

    public string $serverVersion = '';

    public string $logFile = '';

    public int $logPosition = 0;

    public string $gtid = '';

    /** Whether its last line is there. */
    public bool $isWhole = false;

    /** When it ended, as its last line says: in the zone of whoever made it. */
    public string $completedAt = '';

    public int $bytes = 0;

    /** Whether it begins as SQL does. */
    public bool $beginsAsSql = false;

    /** @var array<string, true> schemas that USE lines name */
    public array $used = [];

    private string $current = '';

    private string $held = '';

    private bool $withinLine = false;

    private string $delimiter = ';';

    /**
     * @param  (Closure(DumpSection): void)|null  $begins  told each section before its bytes
     * @param  (Closure(string): void)|null  $takes  given the bytes
     */
    public function __construct(private readonly ?Closure $begins = null, private readonly ?Closure $takes = null)
    {
        $this->begin(DumpSection::HEADER, '');
    }

    public function feed(string $bytes): void
    {
        $this->held .= $bytes;
        if ($this->withinLine) {
            $end = strpos($this->held, "\n");
            if ($end === false) {
                $this->pass($this->held);
                $this->held = '';

                return;
            }
            $this->pass(substr($this->held, 0, $end + 1));
            $this->held = substr($this->held, $end + 1);
            $this->withinLine = false;
        }
        $end = strrpos($this->held, "\n");
        if ($end !== false) {
            $lines = substr($this->held, 0, $end + 1);
            $rest = substr($this->held, $end + 1);
            if (str_ends_with("\n$lines", "\n--\n")) {
                // what it is about stands in the next line
                $rest = "--\n$rest";
                $lines = substr($lines, 0, -3);
            }
            $this->held = $rest;
            $this->lines($lines);
        }
        if (strlen($this->held) > self::LINE_KEPT) {
            $this->lines($this->held);
            $this->held = '';
            $this->withinLine = true;
        }
    }

    public function finish(): void
    {
        $this->lines($this->held);
        $this->held = '';
    }

    private function lines(string $lines): void
    {
        $this->beginsAsSql =
            $this->beginsAsSql ||
            ($this->bytes < self::HEAD &&
                preg_match('/^\s*(?:CREATE|INSERT|REPLACE|DROP|SET|USE|LOCK|BEGIN|START|\/\*[!M])/im', $lines) === 1);
        $from = 0;
        preg_match_all(
            '/^(?:--\n-- [^\n]*|-- [^\n]*|DELIMITER [^\n]*|USE [^\n]*|UNLOCK TABLES;|CHANGE MASTER [^\n]*|SET GLOBAL '.
                'gtid_slave_pos[^\n]*)$/m',
            $lines,
            $matches,
            PREG_OFFSET_CAPTURE,
        );
        foreach ($matches[0] as [$line, $at]) {
            if (str_starts_with($line, 'DELIMITER ')) {
                $this->delimiter = trim(substr($line, 10));

                continue;
            }
            if ($this->delimiter !== ';') {
                continue;
            }
            if ($line === 'UNLOCK TABLES;') {
                if ($this->last()->kind === DumpSection::DATA) {
                    $cut = min(strlen($lines), $at + strlen($line) + 1);
                    $this->pass(substr($lines, $from, $cut - $from));
                    $from = $cut;
                    $this->begin(DumpSection::TRIGGERS, $this->last()->name);
                }

                continue;
            }
            if (str_starts_with($line, "--\n-- ")) {
                $kind = $this->kind(substr($line, 6), $name);
                if ($kind !== null) {
                    $this->pass(substr($lines, $from, $at - $from));
                    $from = $at;
                    if ($kind === DumpSection::SCHEMA) {
                        $this->current = $name;
                    }
                    $this->begin($kind, $name);
                }
                $line = substr($line, 3);
            }
            $this->fact($line);
        }
        $this->pass(substr($lines, $from));
    }

    private function kind(string $comment, ?string &$name): ?string
    {
        foreach (self::MARKERS as $words => $kind) {
            if (str_starts_with($comment, $words)) {
                $name = trim(substr($comment, strlen($words)));
                if (preg_match('/^`((?:[^`]|``)*)`/', $name, $m) === 1) {
                    $name = str_replace('``', '`', $m[1]);
                } elseif (preg_match("/^'(.*)'$/", $name, $m) === 1) {
                    $name = $m[1];
                }

                return $kind;
            }
        }

        return null;
    }

    private function fact(string $line): void
    {
        if (preg_match("/MASTER_LOG_FILE='([^']+)',\s*MASTER_LOG_POS=(\d+)/", $line, $m) === 1) {
            [$this->logFile, $this->logPosition] = [$m[1], (int) $m[2]];
        } elseif (preg_match("/gtid_slave_pos\s*=\s*'([0-9,\s-]*)'/", $line, $m) === 1) {
            $this->gtid = preg_replace('/\s+/', '', $m[1]) ?? '';
        } elseif (str_starts_with($line, '-- Dump completed')) {
            $this->isWhole = true;
            $this->completedAt = trim(str_replace('on', '', substr($line, 17)));
        } elseif (preg_match('/^-- Host: (\S*)\s+Database: ?(.*)$/', $line, $m) === 1) {
            [$this->host, $this->schema] = [$m[1], trim($m[2])];
            $this->current = $this->current === '' ? $this->schema : $this->current;
        } elseif (preg_match('/^-- Server version\s+(\S+)/', $line, $m) === 1) {
            $this->serverVersion = $m[1];
        } elseif (preg_match('/^USE `((?:[^`]|``)+)`/', $line, $m) === 1) {
            $this->current = str_replace('``', '`', $m[1]);
            $this->used[$this->current] = true;
        }
    }

    private function begin(string $kind, string $name): void
    {
        $section = new DumpSection($kind, $this->current, $name, $this->bytes);
        $this->sections[] = $section;
        if ($this->begins !== null) {
            ($this->begins)($section);
        }
    }

    private function last(): DumpSection
    {
        return $this->sections[count($this->sections) - 1];
    }

    private function pass(string $bytes): void
    {
        if ($bytes === '') {
            return;
        }
        $this->bytes += strlen($bytes);
        $this->last()->bytes += strlen($bytes);
        if ($this->takes !== null) {
            ($this->takes)($bytes);
        }
    }

    /** @return array<string, list<string>> schema => tables whose rows are in it */
    public function tables(): array
    {
        $tables = [];
        foreach ($this->sections as $section) {
            if ($section->kind === DumpSection::TABLE) {
                $tables[$section->schema][] = $section->name;
            }
        }

        return $tables;
    }

    /** @return list<string> */
    public function schemas(): array
    {
        $schemas = [];
        foreach ($this->sections as $section) {
            if ($section->schema !== '') {
                $schemas[$section->schema] = true;
            }
        }

        return array_map(strval(...), array_keys($schemas));
    }
}
