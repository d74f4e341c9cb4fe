<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Rows;

use App\Instance;
use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabaseOrder;
use App\Kinds\Databases\Order\DatabasePoints;
use App\Kinds\Databases\Run\Workbench;
use App\Kinds\Databases\Server\CannotReachServer;
use App\Kinds\Databases\Server\ServerLink;
use App\Models\Workload;
use Closure;
use PDOException;

/** What a restore by rows would do to the live tables as they are now; nothing at the server is changed. */
final class RowPreview
{
    /**
     * @param  (Closure(string): void)|null  $told  what is being done, in words
     *
     * @throws CannotRestore|CannotReachServer
     */
    public static function of(Workload $workload, DatabaseOrder $order, ?Closure $told = null): RowWork
    {
        $points = new DatabasePoints($workload, $order->reading($workload));
        $transaction =
            $points->transactions->byGtid($order->gtid) ??
            throw CannotRestore::because("No log of {$workload->name} holds the transaction {$order->gtid}.");
        $folder = Instance::folder('tmp').'/database-preview-'.getmypid();
        $told ??= function (): void {
        };
        $bench = new Workbench($points, $folder, Workbench::inWords($told));
        try {
            $rows = new RowWork(
                $bench->link(),
                ServerLink::to($order->server()),
                $order->way === DatabaseOrder::REVERSE,
                $order->takeConflicts,
            );
            $work = new RowSettling($bench, $points, $transaction, $folder);
            $reaches = $work->reaches($order);
            if ($reaches === null) {
                $told('the rows that the log holds are gone through');
                $work->fromImages($rows);
            } else {
                $work->load($reaches);
                $told('the rows before and after are compared');
                $work->fromTables($rows, $reaches, $order->tables);
            }
            $told('they are compared with the live ones');
            $rows->decide();
            $rows->remarks = [...$rows->remarks, ...$work->remarks];

            return $rows;
        } catch (PDOException $failure) {
            throw CannotRestore::because('The rows cannot be compared: '.mb_scrub($failure->getMessage()));
        } finally {
            $bench->end();
        }
    }
}
