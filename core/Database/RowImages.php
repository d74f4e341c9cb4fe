<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use Kaiseki\Core\Database\Internal\OpenTables;
use Kaiseki\Core\Database\Internal\RowEvent;
use Kaiseki\Core\Database\Internal\RowLayout;
use Kaiseki\Core\Database\Internal\TableMap;

/**
 * The row images of one transaction as inserts: what each row was before goes into a table of one schema, what it was
 * after into its twin in another. So the server itself reads the images, in every type it knows, and each touch gets a
 * number (the tables have one more column at their end, that counts).
 */
final class RowImages
{
    /** @var array<string, array{string, string, int}> "schema\0table" => schema, table, touched rows */
    public array $tables = [];

    /** @var list<string> tables whose images do not hold every column */
    public array $partial = [];

    /** @var list<string> tables that a statement opened without showing rows of them: CASCADE may have removed some */
    public array $opened = [];

    public bool $found = false;

    /** Whether it holds a statement that is not about rows. */
    public bool $hasStatement = false;

    /** @var array<string, int> "schema\0table" => number of its twin */
    private array $numbers = [];

    private int $nextTable = 1_000_000;

    /** @var list<TouchRange> */
    public array $ranges = [];

    /** @var array<string, int> "twin\0side" => touches so far */
    private array $touches = [];

    private int $changes = 0;

    private readonly LogWriter $log;

    /**
     * @param  resource  $out  a binary log is written to it
     * @param  list<string>  $without  "schema\0table" whose images are passed over
     */
    public function __construct(
        $out,
        private readonly string $beforeSchema,
        private readonly string $afterSchema,
        private readonly array $without = [],
    ) {
        $this->log = new LogWriter($out);
    }

    /** The table that holds the images of one, in both schemas. */
    public static function twin(int $number): string
    {
        return "t$number";
    }

    /** @throws UnreadableLog */
    public function take(LogReader $log, string $gtid): void
    {
        $maps = [];
        $open = new OpenTables;
        $first = null;
        foreach ($log->events() as $event) {
            if ($event->type === LogEvent::FORMAT) {
                $this->log->write(LogWriter::same($event));
            } elseif ($event->type === LogEvent::GTID) {
                if ($first !== null) {
                    break;
                }
                if ($event->gtid() === $gtid) {
                    $first = $event;
                    $this->begin($event);
                }
            } elseif ($first === null) {
                continue;
            } elseif ($event->type === LogEvent::TABLE_MAP) {
                $layout = new RowLayout($event->body);
                $maps[$event->tableId()] = [$layout, $event->body];
                $open->map($layout->name);
            } elseif ($event->rowKind() !== null) {
                [$layout, $map] =
                    $maps[$event->tableId()] ?? throw UnreadableLog::because("has rows without a table map at {$event->position}");
                $this->note($open->rows($layout->name, ord($event->body[6])));
                if (! in_array($layout->name, $this->without, true)) {
                    $this->takeRows($event, $layout, $map);
                }
            } elseif ($event->type === LogEvent::QUERY) {
                $this->takeStatement(LogReader::query($event)[1]);
            }
        }
        if ($first !== null) {
            $this->log->write(LogWriter::like($first, LogEvent::XID, 0, pack('P', 1)));
        }
        $this->note($open->end());
    }

    private function begin(LogEvent $event): void
    {
        $this->found = true;
        $body = $event->body;
        $body[12] = chr((ord($body[12]) & ~1) | 4); // a transaction that ends with its Xid
        $this->log->write(LogWriter::like($event, $event->type, 0, $body));
    }

    private function takeRows(LogEvent $event, RowLayout $layout, string $map): void
    {
        $this->tables[$layout->name] ??= [$layout->schema, $layout->table, 0];
        $this->numbers[$layout->name] ??= count($this->numbers) + 1;
        $twin = self::twin($this->numbers[$layout->name]);
        $rows = RowEvent::of($event, $layout->columns());
        $count = 0;
        foreach ([[$rows->before, $this->beforeSchema, 0], [$rows->after, $this->afterSchema, 1]] as [$bitmap, $schema, $side]) {
            if (self::columnsIn($bitmap, $layout->columns()) < $layout->columns() && ! in_array($layout->table, $this->partial, true)) {
                $this->partial[] = $layout->table;
            }
            $images = '';
            $count = 0;
            foreach ($rows->images($layout) as $pair) {
                $images .= $pair[$side] ?? '';
                $count++;
            }
            if ($images !== '') {
                $this->touch($twin, $side, $count);
                $id = $this->nextTable++;
                $body = TableMap::number($id).pack('v', RowEvent::ENDS | RowEvent::UNCHECKED).$rows->width.$bitmap.$images;
                $this->log->write(LogWriter::like($event, LogEvent::TABLE_MAP, 0, TableMap::of($map, $id, $schema, $twin)));
                $this->log->write(LogWriter::like($event, LogEvent::WRITE, 0, $body));
            }
        }
        $this->tables[$layout->name][2] += $count;
        $this->changes += $count;
    }

    private function takeStatement(string $sql): void
    {
        $word = strtoupper(substr($sql, 0, 9));
        if (! in_array($word, ['BEGIN', 'COMMIT', 'ROLLBACK'], true) && ! str_starts_with($word, 'SAVEPOINT')) {
            $this->hasStatement = true;
        }
    }

    /** @param  list<string>  $names  "schema\0table" */
    private function note(array $names): void
    {
        foreach ($names as $name) {
            $this->opened = array_values(array_unique([...$this->opened, explode("\0", $name)[1]]));
        }
    }

    private function touch(string $twin, int $side, int $count): void
    {
        $first = ($this->touches["$twin\0$side"] ?? 0) + 1;
        $this->touches["$twin\0$side"] = $first + $count - 1;
        $delta = $this->changes + 1 - $first;
        $last = $this->ranges === [] ? null : $this->ranges[count($this->ranges) - 1];
        if ($last !== null && $last->twin === $twin && $last->isAfter === ($side === 1) && $last->delta === $delta) {
            $last->last = $first + $count - 1;
        } else {
            $this->ranges[] = new TouchRange($twin, $side === 1, $first, $first + $count - 1, $delta);
        }
    }

    /** @return list<RowTwin> */
    public function twins(): array
    {
        return array_map(
            fn (array $table, int $i): RowTwin => new RowTwin($table[0], $table[1], self::twin($i + 1), $table[2]),
            array_values($this->tables),
            array_keys(array_values($this->tables)),
        );
    }

    private static function columnsIn(string $bitmap, int $columns): int
    {
        $count = 0;
        for ($i = 0; $i < $columns; $i++) {
            $count += (ord($bitmap[$i >> 3] ?? "\0") >> ($i & 7)) & 1;
        }

        return $count;
    }
}
