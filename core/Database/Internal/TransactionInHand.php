<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database\Internal;

use Kaiseki\Core\Database\LogTransaction;
use Kaiseki\Core\Database\StatementTables;
use Kaiseki\Core\Database\TableCount;
use UnexpectedValueException;

/** The transaction whose events are gone through: what it is about, as far as they tell. */
final class TransactionInHand
{
    /** Of what it said, so much is kept. */
    public const STATEMENT_BYTES = 2000;

    private const STANDALONE = 1;

    private const DEFINITION = 32;

    public int $domain = 0;

    public int $server = 0;

    public int $sequence = 0;

    /** Where it begins in the log. */
    public int $start = 0;

    private ?string $gtid = null;

    /** Seconds since 1970. */
    private int $at = 0;

    private int $flags = 0;

    private string $statement = '';

    private string $schema = '';

    /** @var array<string, TableCount> */
    private array $tables = [];

    private bool $isDefinition = false;

    private bool $hasText = false;

    private bool $isUndone = false;

    /** @var array<string, RowLayout> by table id */
    private array $layouts = [];

    /** @var array<string, RowLayout> maps as they were seen before, in any transaction of this log */
    private array $known = [];

    private ?RowLayout $layout = null;

    private readonly OpenTables $open;

    public function __construct()
    {
        $this->open = new OpenTables;
    }

    public function isOpen(): bool
    {
        return $this->gtid !== null;
    }

    /** @param  int  $at  where its GTID event stands in the buffer */
    public function begin(string $buffer, int $at, int $position): void
    {
        /** @var array{ts: int, server: int, seq: int, domain: int, flags: int} $head */
        $head = unpack('Vts/x/Vserver/x10/Pseq/Vdomain/Cflags', $buffer, $at);
        [
            'ts' => $this->at,
            'server' => $this->server,
            'seq' => $this->sequence,
            'domain' => $this->domain,
            'flags' => $this->flags,
        ] = $head;
        $this->gtid = "{$this->domain}-{$this->server}-{$this->sequence}";
        $this->start = $position;
        $this->statement = $this->schema = '';
        $this->tables = [];
        $this->isDefinition = ($this->flags & self::DEFINITION) !== 0;
        $this->hasText = $this->isUndone = false;
    }

    /** A statement of it, or the beginning of one. */
    public function say(string $statement): void
    {
        if (strlen($this->statement) < self::STATEMENT_BYTES) {
            $this->statement .= ($this->statement === '' ? '' : ";\n").$statement;
        }
    }

    /** @param  string  $body  of an event that says what a table looks like whose rows follow */
    public function map(string $body): void
    {
        $this->layout = $layout = $this->known[$body] ??= new RowLayout($body);
        $this->layouts[substr($body, 0, 6)] = $layout;
        $this->tables[$layout->name] ??= new TableCount($layout->schema, $layout->table);
        $this->open->map($layout->name);
        if ($this->schema === '') {
            $this->schema = $layout->schema;
        }
    }

    /**
     * @param  string|null  $table  the id in an event of rows; null where that is not at hand: then it is the one that was mapped last
     *
     * @throws UnexpectedValueException if no map came before
     */
    public function layoutOf(?string $table): RowLayout
    {
        $this->layout = $table === null ? $this->layout : $this->layouts[$table] ?? null;

        return $this->layout ?? throw new UnexpectedValueException('rows without a table map');
    }

    /** @param  int  $type  of the event of rows, which may be followed by others of the same statement, as its flags say */
    public function rows(RowLayout $layout, int $type, int $count, int $flags): void
    {
        $this->tables[$layout->name]->add($type, $count);
        foreach ($this->open->rows($layout->name, $flags) as $name) {
            $this->tables[$name]->mayHaveLost = true;
        }
    }

    /** @return bool whether it ends with that */
    public function query(string $default, string $sql): bool
    {
        $word = strtoupper(substr($sql, 0, 9));
        if ($word === 'COMMIT' || $word === 'ROLLBACK') {
            $this->isUndone = $word === 'ROLLBACK';

            return true;
        }
        $isXaEnd = str_starts_with($word, 'XA END');
        if ($word !== 'BEGIN' && ! str_starts_with($word, 'SAVEPOINT') && ! str_starts_with($word, 'ROLLBACK ') && ! $isXaEnd) {
            $this->say($sql);
            $this->name(StatementTables::of($sql, $default));
        }

        return ($this->flags & self::STANDALONE) !== 0 || (str_starts_with($word, 'XA ') && ! $isXaEnd);
    }

    private function name(StatementTables $named): void
    {
        $this->isDefinition = $this->isDefinition || $named->isDefinition;
        $this->hasText = $this->hasText || $named->changesRows;
        $this->schema = $this->schema === '' ? $named->schema : $this->schema;
        foreach ($named->tables as [$schema, $table]) {
            $this->tables["$schema\0$table"] ??= new TableCount($schema, $table);
        }
    }

    /** @param  int  $end  behind its last event */
    public function close(int $end): LogTransaction
    {
        foreach ($this->open->end() as $name) {
            $this->tables[$name]->mayHaveLost = true;
        }
        $transaction = new LogTransaction(
            (string) $this->gtid,
            $this->start,
            $end,
            $this->at,
            $this->schema,
            array_values($this->tables),
            $this->statement === '' ? '' : self::shown($this->statement),
            $this->isDefinition,
            $this->hasText,
            $this->isUndone,
        );
        $this->gtid = null;

        return $transaction;
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
