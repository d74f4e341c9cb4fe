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

    private int $nextTable = 1_000_000;

    /**
     * @var list<array{string, int, int, int, int}> twin, side (0 before, 1 after), first and last touch, and what makes them numbers of
     *     the transaction's row changes
     */
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

    public function take(LogReader $log, string $gtid): void
    {
        $inside = false;
        $maps = [];
        $numbers = [];
        $open = new OpenTables;
        $first = null;
        $written = '';
        foreach ($log->events() as $event) {
            if ($event->type === LogEvent::FORMAT) {
                $this->log->write(LogWriter::same($event));
            } elseif ($event->type === LogEvent::GTID) {
                if ($inside) {
                    break;
                }
                $inside = $event->gtid() === $gtid;
                if ($inside) {
                    $this->found = true;
                    $first = $event;
                    $body = $event->body;
                    $body[12] = chr((ord($body[12]) & ~1) | 4); // a transaction that ends with its Xid
                    $written .= LogWriter::like($event, $event->type, 0, $body);
                }
            } elseif ($inside && $event->type === LogEvent::TABLE_MAP) {
                $layout = new RowLayout($event->body);
                $maps[$event->tableId()] = [$layout, $event->body];
                $open->map($layout->name);
            } elseif ($inside && $event->rowKind() !== null) {
                [$layout, $map] =
                    $maps[$event->tableId()] ?? throw UnreadableLog::because("has rows without a table map at {$event->position}");
                $key = $layout->name;
                $this->note($open->rows($key, ord($event->body[6])));
                if (in_array($key, $this->without, true)) {
                    continue;
                }
                $number = $numbers[$key] ??= count($numbers) + 1;
                $this->tables[$key] ??= [$layout->schema, $layout->table, 0];
                $rows = RowEvent::of($event, $layout->columns());
                foreach ([[$rows->before, $this->beforeSchema, 0], [$rows->after, $this->afterSchema, 1]] as [$bitmap, $schema, $which]) {
                    if (
                        self::columnsIn($bitmap, $layout->columns()) < $layout->columns() &&
                        ! in_array($layout->table, $this->partial, true)
                    ) {
                        $this->partial[] = $layout->table;
                    }
                    $images = '';
                    $count = 0;
                    foreach ($rows->images($layout) as $pair) {
                        $images .= $pair[$which] ?? '';
                        $count++;
                    }
                    if ($images !== '') {
                        $this->touch(self::twin($number), $which, $count);
                        $id = $this->nextTable++;
                        $written .= LogWriter::like($event, LogEvent::TABLE_MAP, 0, TableMap::of($map, $id, $schema, self::twin($number)));
                        $written .= LogWriter::like(
                            $event,
                            LogEvent::WRITE,
                            0,
                            TableMap::number($id).pack('v', RowEvent::ENDS | RowEvent::UNCHECKED).$rows->width.$bitmap.$images,
                        );
                    }
                }
                $this->tables[$key][2] += $count;
                $this->changes += $count;
                $this->log->write($written);
                $written = '';
            } elseif ($inside && $event->type === LogEvent::QUERY) {
                $word = strtoupper(substr(LogReader::query($event)[1], 0, 9));
                $this->hasStatement =
                    $this->hasStatement ||
                    (! in_array($word, ['BEGIN', 'COMMIT', 'ROLLBACK'], true) && ! str_starts_with($word, 'SAVEPOINT'));
            }
        }
        if ($first !== null) {
            $this->log->write($written.LogWriter::like($first, LogEvent::XID, 0, pack('P', 1)));
        }
        $this->note($open->end());
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
        $last = array_key_last($this->ranges);
        if (
            $last !== null &&
            $this->ranges[$last][0] === $twin &&
            $this->ranges[$last][1] === $side &&
            $this->ranges[$last][4] === $delta
        ) {
            $this->ranges[$last][3] = $first + $count - 1;
        } else {
            $this->ranges[] = [$twin, $side, $first, $first + $count - 1, $delta];
        }
    }

    /** @return list<array{schema: string, table: string, twin: string, rows: int}> */
    public function twins(): array
    {
        return array_map(
            fn (array $table, int $i): array => [
                'schema' => $table[0],
                'table' => $table[1],
                'twin' => self::twin($i + 1),
                'rows' => $table[2],
            ],
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
