<?php

declare(strict_types=1);

namespace App\Care;

use App\Instance;
use App\Kinds\Kind;
use App\Kinds\Kinds;
use App\Runs\ProofKey;
use Illuminate\Database\Connection;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Schema;
use InvalidArgumentException;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Proof\DigestLine;
use Kaiseki\Core\UnableToWrite;
use PDO;
use stdClass;

/**
 * The catalog as plain files, and back: each table as TABLE.jsonl.gz (the first line names its columns, and those that
 * are bytes, written as hexadecimal digits), the indexes of places as they are, and a list that b2sum --check reads.
 * People, requests and runs are not part of it.
 */
final class CatalogExport
{
    /** In an order in which rows can be brought back. */
    private const TABLES = [
        'stores',
        'lanes',
        'workloads',
        'histories',
        'sets',
        'set_parts',
        'copies',
        'paths',
        'versions',
        'folder_totals',
        'damaged_contents',
        'signs',
        'doubts',
        'verdicts',
        'bad_contents',
        'keep_rules',
        'holds',
        'schedules',
        'objective_days',
        'rate_measurements',
        'checks',
    ];

    /** Columns that name what is not exported. */
    private const LEFT_OUT = ['user_id', 'request_id', 'run_id'];

    /** Columns by the names that they had in exports of versions before => as they are now. */
    private const WAS_NAMED = ['sets' => ['database' => 'facts']];

    private const ROWS = 500;

    /** @return list<string> those of all kinds, then each kind's own */
    private static function tables(): array
    {
        return array_merge(self::TABLES, ...array_values(array_map(fn (Kind $kind): array => $kind->exported()->tables, Kinds::all())));
    }

    /** @return list<string> endings of what is kept of a set under the home */
    private static function indexes(): array
    {
        return array_merge(
            ['places', 'pieces'],
            ...array_values(array_map(fn (Kind $kind): array => $kind->exported()->indexes, Kinds::all())),
        );
    }

    /** @return int bytes written */
    public function write(string $folder): int
    {
        if (is_dir($folder) && (scandir($folder) ?: []) !== ['.', '..']) {
            throw new InvalidArgumentException("The folder $folder is not empty.");
        }
        @mkdir("$folder/index", 0700, true);
        $bytes = 0;
        $files = [];
        foreach (self::tables() as $table) {
            $this->writeTable($table, "$folder/$table.jsonl.gz");
            $files[] = "$table.jsonl.gz";
        }
        foreach (DB::table('sets')->pluck('id') as $id) {
            foreach (self::indexes() as $kind) {
                foreach (glob(Instance::path("index/$id.{,[0-9]*.}$kind"), GLOB_BRACE) ?: [] as $file) {
                    if (! copy($file, "$folder/index/".basename($file))) {
                        throw UnableToWrite::full($folder, "The index of a set in $folder");
                    }
                    $files[] = 'index/'.basename($file);
                }
            }
        }
        file_put_contents("$folder/".ProofKey::FILE, ProofKey::text());
        $files[] = ProofKey::FILE;
        $list = '';
        foreach ($files as $file) {
            $list .= DigestLine::of((string) ContentDigest::ofFile("$folder/$file"), $file);
            $bytes += (int) filesize("$folder/$file");
        }
        file_put_contents("$folder/catalog.b2sum", $list);

        return $bytes;
    }

    /**
     * Into an empty catalog.
     *
     * @return int rows
     *
     * @throws InvalidArgumentException if it is not whole, or the catalog is not empty
     */
    public function read(string $folder): int
    {
        if (DB::table('sets')->exists() || DB::table('workloads')->exists()) {
            throw new InvalidArgumentException('There is a catalog already. An export is taken in where there is none.');
        }
        $this->mustBeWhole($folder);
        $rows = 0;
        DB::transaction(function () use ($folder, &$rows): void {
            DB::table('stores')->delete();
            DB::table('lanes')->delete();
            // A set may come before the one it rests on.
            Schema::withoutForeignKeyConstraints(function () use ($folder, &$rows): void {
                foreach (array_filter(self::tables(), fn (string $table): bool => is_file("$folder/$table.jsonl.gz")) as $table) {
                    $rows += $this->readTable($table, "$folder/$table.jsonl.gz");
                }
            });
        });
        foreach (glob("$folder/index/*") ?: [] as $file) {
            copy($file, Instance::folder('index').'/'.basename($file));
        }

        return $rows;
    }

    private function mustBeWhole(string $folder): void
    {
        $list = @file("$folder/catalog.b2sum", FILE_IGNORE_NEW_LINES);
        if ($list === false || $list === []) {
            throw new InvalidArgumentException("There is no catalog export in $folder.");
        }
        foreach ($list as $line) {
            $file = substr($line, 66);
            $isOurs = preg_match('~^(index/\d+(\.\d+)?\.[a-z]+|[a-z_]+\.jsonl\.gz|proof-key\.pub)$~D', $file) === 1;
            if (! $isOurs || bin2hex((string) ContentDigest::ofFile("$folder/$file")) !== substr($line, 0, 64)) {
                throw new InvalidArgumentException("The export is not what was written: $file.");
            }
        }
    }

    private function writeTable(string $table, string $path): void
    {
        $columns = $this->columns($table);
        $hex = array_keys(array_filter($columns));
        $names = array_keys($columns);
        $file = gzopen($path, 'wb6') ?: throw UnableToWrite::open($path);
        gzwrite($file, json_encode(['table' => $table, 'columns' => $names, 'hex' => $hex], JSON_THROW_ON_ERROR)."\n");
        $pdo = DB::connection()->getPdo();
        $pdo->setAttribute(PDO::MYSQL_ATTR_USE_BUFFERED_QUERY, false);
        try {
            $statement = $pdo->prepare('SELECT `'.implode('`,`', $names)."` FROM `$table`");
            $statement->execute();
            $isHex = array_map(fn (string $name): bool => $columns[$name], $names);
            while (is_array($row = $statement->fetch(PDO::FETCH_NUM))) {
                foreach ($isHex as $i => $bytes) {
                    if ($bytes && $row[$i] !== null) {
                        $row[$i] = bin2hex((string) $row[$i]);
                    }
                }
                $line =
                    json_encode($row, JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION).
                    "\n";
                if (gzwrite($file, $line) !== strlen($line)) {
                    throw UnableToWrite::full($path);
                }
            }
            $statement->closeCursor();
        } finally {
            $pdo->setAttribute(PDO::MYSQL_ATTR_USE_BUFFERED_QUERY, true);
            gzclose($file);
        }
    }

    private function readTable(string $table, string $path): int
    {
        $file = gzopen($path, 'rb') ?: throw new InvalidArgumentException("$path cannot be read.");
        $head = json_decode((string) gzgets($file), true);
        $known = $this->columns($table);
        $names = is_array($head)
            ? array_map(fn (string $name): string => self::WAS_NAMED[$table][$name] ?? $name, $head['columns'] ?? [])
            : [];
        if (! is_array($head) || ($head['table'] ?? null) !== $table || array_diff($names, array_keys($known)) !== []) {
            throw new InvalidArgumentException("$path is not of this version.");
        }
        $columns = '`'.implode('`,`', $names).'`';
        $hex = array_map(fn (string $name): bool => in_array($name, $head['hex'], true), $head['columns']);
        $rows = [];
        $count = 0;
        $connection = DB::connection();
        while (($line = gzgets($file)) !== false) {
            $values = [];
            foreach ((array) json_decode($line, true, 512, JSON_THROW_ON_ERROR) as $i => $value) {
                $values[] = match (true) {
                    $value === null => 'NULL',
                    $hex[$i] => preg_match('/^[0-9a-f]*$/D', (string) $value) === 1
                        ? "x'$value'"
                        : throw new InvalidArgumentException("$path is damaged."),
                    is_int($value) || is_float($value) => (string) $value,
                    default => $connection->getPdo()->quote((string) $value),
                };
            }
            $rows[] = '('.implode(',', $values).')';
            $count++;
            if (count($rows) === self::ROWS) {
                $this->insert($connection, $table, $columns, $rows);
                $rows = [];
            }
        }
        $this->insert($connection, $table, $columns, $rows);
        gzclose($file);

        return $count;
    }

    /** @param  list<string>  $rows */
    private function insert(Connection $connection, string $table, string $columns, array $rows): void
    {
        if ($rows !== []) {
            $connection->getPdo()->exec("INSERT INTO `$table` ($columns) VALUES ".implode(',', $rows));
        }
    }

    /** @return array<string, bool> name => whether it holds bytes */
    private function columns(string $table): array
    {
        $columns = [];
        foreach (
            DB::select(
                'SELECT column_name AS name, data_type AS type FROM information_schema.columns WHERE table_schema = DATABASE() AND '.
                    'table_name = ? ORDER BY ordinal_position',
                [$table],
            ) as $column
        ) {
            assert($column instanceof stdClass);
            if (! in_array($column->name, self::LEFT_OUT, true)) {
                $columns[$column->name] = in_array($column->type, ['binary', 'varbinary', 'blob', 'longblob', 'mediumblob'], true);
            }
        }

        return $columns;
    }
}
