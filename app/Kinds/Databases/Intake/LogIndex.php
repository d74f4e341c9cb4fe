<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Intake;

use App\Models\BackupSet;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Database\LogFacts;
use Kaiseki\Core\Database\LogReader;
use Kaiseki\Core\Database\LogTransaction;
use Kaiseki\Core\Database\TableCount;

/** The transactions of a binary log as rows, so that a moment, a table or a statement is found without reading logs again. */
final class LogIndex
{
    private const ROWS_AT_ONCE = 1000;

    /** Written in full into one row; of a transaction over more tables the rest is counted. */
    private const TABLES_KEPT = 200;

    /**
     * Reads a log through and keeps what is in it.
     *
     * @param  callable(int): void|null  $progress  told the transactions read
     */
    public static function take(BackupSet $set, string $file, LogReader $log, ?callable $progress = null): LogFacts
    {
        DB::table('log_transactions')->where('set_id', $set->id)->delete();
        $rows = [];
        $last = 0;
        foreach ($log->transactions() as $transaction) {
            $last = max($last, $transaction->at);
            $rows[] = self::row($set->id, $transaction);
            if (count($rows) >= self::ROWS_AT_ONCE) {
                self::write($rows);
                $rows = [];
                if ($progress !== null) {
                    $progress($log->transactions);
                }
            }
        }
        self::write($rows);

        return LogFacts::of($file, $log, $last);
    }

    private static function row(int $set, LogTransaction $transaction): string
    {
        $pdo = DB::connection()->getPdo();
        [$inserted, $updated, $deleted] = $transaction->sums();
        $tables = array_map(fn (TableCount $count): array => $count->kept(), array_slice($transaction->tables, 0, self::TABLES_KEPT));

        return "($set,{$transaction->position},{$transaction->end},{$transaction->at},'{$transaction->gtid}',".
            $pdo->quote(mb_substr(mb_scrub($transaction->schema), 0, 64)).
            ",$inserted,$updated,$deleted,".
            (int) $transaction->isDefinition.
            ','.
            (int) $transaction->hasTextStatement.
            ','.
            (int) $transaction->isUndone.
            ','.
            $pdo->quote(json_encode($tables, JSON_THROW_ON_ERROR | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES)).
            ','.
            $pdo->quote($transaction->statement).
            ')';
    }

    /** @param  list<string>  $rows */
    private static function write(array $rows): void
    {
        if ($rows !== []) {
            DB::connection()
                ->getPdo()
                ->exec(
                    'INSERT INTO log_transactions (set_id, position, `end`, at, gtid, `schema`, inserted, updated, deleted, definition, '.
                        'text, undone, tables, statement) VALUES '.
                        implode(',', $rows),
                );
        }
    }
}
