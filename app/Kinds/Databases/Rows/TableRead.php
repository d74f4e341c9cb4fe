<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

use App\Instance;
use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabaseSheet;
use App\Kinds\Databases\Order\Reach;
use App\Kinds\Databases\Run\Column;
use App\Kinds\Databases\Run\SchemaFacts;
use App\Kinds\Databases\Run\Workbench;
use App\Kinds\Databases\Server\CannotReachServer;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Databases\Server\ServerLink;
use Closure;
use Kaiseki\Core\Database\Identifier;
use PDOException;

/**
 * Rows of one table as they were at the point, each beside the live one of the same key. The table alone is brought up on a throw-away
 * server for it.
 */
final class TableRead
{
    private const ROWS = 30;

    /** What is larger is better restored beside, and looked at there. */
    private const LARGEST = 2 << 30;

    public readonly string $schema;

    public readonly string $table;

    /** @var list<string> */
    public array $columns = [];

    /** @var list<string> */
    public array $key = [];

    /** @var list<RowThenNow> */
    public array $rows = [];

    public ?int $count = null;

    public ?string $problem = null;

    /** @param  Closure(string): void  $told */
    public function __construct(
        private readonly DatabaseSheet $sheet,
        string $name,
        public readonly string $search,
        private readonly Closure $told,
    ) {
        [$this->schema, $this->table] = str_contains($name, '.') ? explode('.', $name, 2) : [$sheet->choice['source-schema'] ?? '', $name];
        try {
            $this->look();
        } catch (CannotRestore|CannotReachServer|PDOException $cannot) {
            $this->problem = mb_scrub($cannot->getMessage());
        }
    }

    private function look(): void
    {
        $reach = null;
        foreach ($this->sheet->reaches as $one) {
            $reach = in_array($this->schema, $one->schemas, true) ? $one : $reach;
        }
        if ($reach === null) {
            $this->problem = $this->sheet->problem ?? 'The point is not settled.';

            return;
        }
        if ($reach->dump->bytes + $reach->logBytes() > self::LARGEST) {
            $this->problem = 'That is too much to be looked into by the way: restore the table beside, and look there.';

            return;
        }
        $bench = new Workbench($this->sheet->points, Instance::folder('tmp').'/database-look-'.getmypid(), Workbench::inWords($this->told));
        try {
            $only = new Reach($reach->dump, [$this->schema], $reach->from, $reach->until, $reach->logs);
            $bench->load($only, [$this->table]);
            $bench->roll(
                [$only, ...$this->sheet->order === null ? [] : $bench->loadParents([$only], $this->sheet->order->stop)],
                $this->sheet->order->skip ?? [],
            );
            $this->read($bench->link());
        } finally {
            $bench->end();
        }
    }

    private function read(ServerLink $then): void
    {
        $facts = new SchemaFacts($then, $this->schema);
        if (! in_array($this->table, $facts->tables(), true)) {
            $this->problem = "There is no table {$this->table} at that point.";

            return;
        }
        $this->columns = Column::names($facts->columns($this->table));
        $this->key = $facts->key($this->table);
        $this->count = (int) $then->one('SELECT COUNT(*) FROM '.Workbench::name($this->schema, $this->table));
        $order =
            $this->key === [] ? '' : ' ORDER BY '.implode(', ', array_map(Identifier::quoted(...), $this->key));
        $where =
            $this->search === '' || $this->key === []
                ? ''
                : ' WHERE CAST('.Identifier::quoted($this->key[0]).' AS CHAR) LIKE ?';
        foreach (
            $then->rows(
                'SELECT * FROM '.Workbench::name($this->schema, $this->table)."$where$order LIMIT ".self::ROWS,
                $where === '' ? [] : [$this->search.'%'],
            ) as $row
        ) {
            $this->rows[] = new RowThenNow(self::shown($row), $this->live($row));
        }
    }

    /**
     * @param  array<string, string|null>  $row
     * @return array<string, string|null>|null
     */
    private function live(array $row): ?array
    {
        if ($this->key === []) {
            return null;
        }
        try {
            $server = DatabaseServer::of($this->sheet->workload);
            $link = $server === null ? null : ($this->link ??= ServerLink::to($server));
            $found = $link?->rows(
                'SELECT * FROM '.
                    Workbench::name($this->schema, $this->table).
                    ' WHERE '.
                    implode(
                        ' AND ',
                        array_map(fn (string $column): string => Identifier::quoted($column).' = ?', $this->key),
                    ),
                array_map(fn (string $column): ?string => $row[$column], $this->key),
            );
        } catch (CannotReachServer|PDOException) {
            return null;
        }

        return ($found[0] ?? null) === null ? null : self::shown($found[0]);
    }

    private ?ServerLink $link = null;

    /**
     * @param  array<string, string|null>  $row
     * @return array<string, string|null>
     */
    private static function shown(array $row): array
    {
        return array_map(
            fn (?string $value): ?string => $value === null
                ? null
                : (mb_check_encoding($value, 'UTF-8')
                    ? mb_strimwidth($value, 0, 80, '…')
                    : '0x'.substr(bin2hex($value), 0, 40)),
            $row,
        );
    }
}
