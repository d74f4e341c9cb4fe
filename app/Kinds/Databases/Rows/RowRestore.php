<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabaseOrder;
use App\Kinds\Databases\Order\DatabasePoints;
use App\Kinds\Databases\Order\LoggedTransaction;
use App\Kinds\Databases\Order\Reach;
use App\Kinds\Databases\Run\RunAccount;
use App\Kinds\Databases\Run\RunAtServer;
use App\Kinds\Databases\Run\SchemaFacts;
use App\Kinds\Databases\Server\ServerLink;
use App\Models\Run;
use App\Runs\RunFiles;
use App\Words;

/** The rows that a transaction touched, brought back into the live tables one by one. */
final class RowRestore
{
    /** The transaction whose log is all that was read. */
    public ?LoggedTransaction $readAlone = null;

    /** @var list<Reach> what else was read */
    public array $reaches = [];

    private readonly Run $run;

    private readonly RunAtServer $there;

    /** @param  string  $folder  for the throw-away server */
    public function __construct(
        private readonly RunAccount $account,
        private readonly DatabaseOrder $order,
        private readonly DatabasePoints $points,
        private readonly ServerLink $target,
        private readonly string $folder,
    ) {
        $this->run = $account->run;
        $this->there = new RunAtServer($this->run, $order);
    }

    public function carryOut(): void
    {
        if ($this->there->rowsAreChanged($this->target)) {
            $this->account->wasDone(3, 4, 5, 6, 7, 8);
            $this->account->told += array_intersect_key($this->run->outcome, [
                'rows' => true,
                'conflicts' => true,
                'impossible' => true,
                'tables' => true,
            ]);
        } else {
            $change = $this->settleRows();
            $this->account->keep($this->account->told);
            $this->account->step(7, fn (): string => 'compared again in the transaction');
            $this->account->step(8, fn (): string => Words::count($change->carryOut(), 'row'));
        }
        $this->account->keep(['applied' => true]);
        $sums = $this->account->told['rows'] ?? [];
        $this->account->step(9, function () use ($sums): string {
            $tables = $this->run->refresh()->outcome['tables'] ?? [];
            $this->account->check(
                'every row that was to come back is as it was, read again in the transaction that did it',
                [],
                Words::count(($sums['insert'] ?? 0) + ($sums['set_back'] ?? 0) + ($sums['remove'] ?? 0), 'row'),
            );
            $conflicts = ($sums['conflicts'] ?? 0).' rows were changed since and are left as they are';
            $impossible = array_map(
                fn (array $one): string => "{$one['table']}: {$one['because']}",
                $this->account->told['impossible'] ?? [],
            );
            $this->account->check(
                'nothing stood in the way',
                ($sums['conflicts'] ?? 0) + count($impossible) === 0 ? [] : [$conflicts, ...$impossible],
                $conflicts,
            );
            $wrong = [];
            foreach (array_unique(array_column($tables, 'schema')) as $of) {
                $wrong += (new SchemaFacts($this->target, (string) $of))->orphans(array_column($tables, 'table'));
            }
            $this->account->check(
                'every foreign key of these tables points at a row',
                SchemaFacts::orphansInWords($wrong),
                Words::count(count($tables), 'table'),
            );

            return count($tables).' tables';
        });
    }

    private function settleRows(): RowChange
    {
        $transaction =
            $this->points->transactions->byGtid($this->order->gtid) ??
            throw CannotRestore::because("No log of {$this->run->workload->name} holds the transaction {$this->order->gtid}.");
        $bench = $this->account->workbench($this->points, $this->folder);
        try {
            $rows = new RowWork($bench->link(), $this->target, $this->order->way === DatabaseOrder::REVERSE, $this->order->takeConflicts);
            $work = new RowSettling($bench, $this->points, $transaction, $this->folder);
            $reaches = $work->reaches($this->order);
            if ($reaches === null) {
                $this->readAlone = $transaction;
                $this->account->expectStages($transaction->end - $transaction->position);
                $this->account->step(3, fn (): string => 'not needed: the log holds the rows');
                $this->account->step(4, fn (): string => $work->fromImages($rows));
                $this->account->stageDone();
            } else {
                $this->reaches = $reaches;
                $this->account->expectWork($reaches, true);
                $this->account->step(3, function () use ($work, $reaches): string {
                    $work->load($reaches);

                    return implode(', ', array_map(fn (Reach $reach): string => $reach->dump->name, $reaches));
                });
                $this->account->step(4, fn (): string => $work->fromTables($rows, $reaches, $this->order->tables));
            }
            $this->account->remark(...$work->remarks);
            $this->account->step(5, function () use ($rows): string {
                $rows->decide();
                $this->account->stageDone();
                $sums = $rows->sums();

                return "{$sums->insert} to insert, {$sums->setBack} to set back, {$sums->remove} to take out, {$sums->same} ".
                    "right already, {$sums->conflicts} in conflict";
            });
            $this->account->remark(...$rows->remarks);
            $tables = array_map(fn (RowTable $table): array => $table->toArray(), $rows->tables);
            $this->account->told = RowSchema::told($rows) + ['tables' => $tables] + $this->account->told;
            $this->account->step(6, function () use ($rows, &$change): string {
                $change = $this->target->withLongRows(
                    fn (): RowChange => $rows->change(RowSchema::of($this->run), RunFiles::folder($this->run)),
                );
                $this->account->stageDone();

                return 'kept in '.RowSchema::of($this->run).', so that it can be put back';
            });

            return $change ?? throw CannotRestore::because('What was settled could not be kept.');
        } finally {
            $bench->end();
        }
    }
}
