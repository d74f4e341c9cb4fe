<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabaseOrder;
use App\Kinds\Databases\Rows\RowChange;
use App\Kinds\Databases\Rows\RowSchema;
use App\Kinds\Databases\Rows\RowTable;
use App\Kinds\Databases\Server\CannotReachServer;
use App\Kinds\Databases\Server\ServerLink;
use App\Kinds\Databases\Server\WorkAccount;
use App\Models\Run;
use App\Runs\RunFiles;
use Kaiseki\Core\Database\Identifier;
use PDOException;

/** What a run has at its server: tables beside and aside, or rows that it changed. */
final readonly class RunAtServer
{
    public function __construct(private Run $run, private DatabaseOrder $order)
    {
    }

    /** Whether it has begun to put things in place. */
    public function isPlaced(): bool
    {
        foreach ($this->swaps() as $swap) {
            if ($swap->state()['stage'] !== 'none') {
                return true;
            }
        }

        return $this->order->isByRows() && $this->rowsAreChanged(ServerLink::to($this->order->server()));
    }

    /** @return array<string, Swap> schema => how it changes places */
    public function swaps(?ServerLink $link = null): array
    {
        if (! $this->order->isInPlace()) {
            return [];
        }
        $link ??= ServerLink::to($this->order->server());
        $swaps = [];
        foreach ($this->order->schemas as $schema) {
            $swaps[$schema] = new Swap(
                $link,
                $schema,
                Swap::loadedName($this->run, $schema),
                Swap::asideName($this->run, $schema),
                $this->order->tables,
                RunFiles::folder($this->run).'/swap-'.hash('crc32b', $schema).'.json',
            );
        }

        return $swaps;
    }

    public function rowChange(ServerLink $link): RowChange
    {
        $tables = array_map(RowTable::fromArray(...), $this->run->outcome['tables'] ?? []);

        return new RowChange($link, RowSchema::of($this->run), RunFiles::folder($this->run), $tables);
    }

    /** Also where an attempt was killed right after that, before it could say so. */
    public function rowsAreChanged(ServerLink $link): bool
    {
        return ($this->run->refresh()->outcome['applied'] ?? false) || $this->rowChange($link)->isDone();
    }

    /** Of a run that failed nothing half made stays at the server, unless it is in place. */
    public function tidy(): void
    {
        try {
            $link = ServerLink::to($this->order->server());
            $link->withoutLog();
            WorkAccount::clear($link, "run_{$this->run->label()}", "ask_{$this->run->label()}");
            foreach ($this->swaps($link) as $swap) {
                $swap->forget();
            }
            foreach ($this->order->isInPlace() || $this->order->isByRows() ? [] : $this->order->schemas as $schema) {
                if (
                    $link->one('SELECT 1 FROM information_schema.schemata WHERE schema_name = ? AND schema_comment = ?', [
                        $schema,
                        "kaiseki run {$this->run->label()}",
                    ]) !== null
                ) {
                    $link->exec('SET foreign_key_checks = 0');
                    $link->exec('DROP DATABASE '.Identifier::quoted($schema));
                }
            }
            if ($this->order->isByRows() && ! $this->rowsAreChanged($link)) {
                $this->rowChange($link)->drop();
            }
        } catch (CannotReachServer|CannotRestore|PDOException) {
            // The server is gone: a later attempt of the same run clears what is left.
        }
    }

    /**
     * What is at the server, as far as the account may see: so that what a run that failed says of it can be found out by looking.
     *
     * @return array{schemas: array<string, int>, accounts: list<string>|null} schema => tables, views, routines, triggers and events in it
     */
    public static function seen(ServerLink $link): array
    {
        $schemas = [];
        $things = implode(
            ' + ',
            array_map(
                fn (string $kind, string $column): string => "(SELECT COUNT(*) FROM information_schema.$kind k".
                    " WHERE k.$column = s.schema_name)",
                ['tables', 'routines', 'triggers', 'events'],
                ['table_schema', 'routine_schema', 'trigger_schema', 'event_schema'],
            ),
        );
        $ours = 's.schema_name LIKE "kaiseki\\_%" OR s.schema_comment LIKE "kaiseki run %"';
        foreach ($link->rows("SELECT schema_name AS s, $things AS n FROM information_schema.schemata s WHERE NOT ($ours)") as $row) {
            $schemas[(string) $row['s']] = (int) $row['n'];
        }
        try {
            $accounts = $link->column("SELECT CONCAT(user, '@', host) FROM mysql.user WHERE user NOT LIKE 'kaiseki\\_%' ORDER BY 1");
        } catch (PDOException) {
            $accounts = null;
        }

        return ['schemas' => array_diff_key($schemas, array_flip(ServerLink::OWN_SCHEMAS)), 'accounts' => $accounts];
    }

    /** What is otherwise at the server than it was when the run began. */
    private function whatChanged(): string
    {
        $was = $this->run->refresh()->outcome['seen'] ?? null;
        if ($was === null) {
            return ' Nothing that was there was touched: it had not begun at the server.';
        }
        $is = self::seen(ServerLink::to($this->order->server()));
        $changes = [];
        foreach (array_keys($is['schemas'] + $was['schemas']) as $schema) {
            [$before, $now] = [$was['schemas'][$schema] ?? null, $is['schemas'][$schema] ?? null];
            if ($before !== $now) {
                $changes[] =
                    "the schema $schema ".
                    match (null) {
                        $before => 'is there that was not',
                        $now => 'is gone',
                        default => "holds $now things, and held $before",
                    };
            }
        }
        foreach (['is there that was not' => [$is, $was], 'is gone' => [$was, $is]] as $words => [$of, $other]) {
            foreach (array_diff($of['accounts'] ?? [], $other['accounts'] ?? ($of['accounts'] ?? [])) as $account) {
                $changes[] = "the account $account $words";
            }
        }

        $looked = $is['accounts'] === null ? 'schemas' : 'schemas and accounts';

        return $changes === []
            ? " Nothing that was there was touched: looked at again, its $looked are as they were before the run."
            : ' Looked at again, the server is not as it was before the run, by this or by something else: '.
                    implode('; ', array_slice($changes, 0, 20)).
                    '.';
    }

    public function whatWasDone(): string
    {
        foreach ($this->swaps() as $swap) {
            if (in_array($swap->state()['stage'], ['renamed', 'done'], true)) {
                $this->run->update(['outcome' => ['can_put_back' => true] + ($this->run->outcome ?? [])]);

                return ' Tables had changed places before that; what was there is in the set-aside, and can be put back.';
            }
        }

        try {
            $isChanged = $this->order->isByRows() && $this->rowsAreChanged(ServerLink::to($this->order->server()));

            return $isChanged ? ' The rows were changed before that, and can be put back.' : $this->whatChanged();
        } catch (CannotReachServer|CannotRestore|PDOException) {
            return ' Whether anything at the server was changed could not be seen: it does not answer.';
        }
    }
}
