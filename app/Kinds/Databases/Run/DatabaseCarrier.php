<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Carrier;
use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabaseOrder;
use App\Kinds\Databases\Server\TouchedServer;
use App\Kinds\PutBackTold;
use App\Kinds\Touched;
use App\Models\Run;
use App\Models\User;
use App\Words;
use Closure;
use PDOException;

/** Runs that bring schemas, tables or rows back. */
final readonly class DatabaseCarrier implements Carrier
{
    /** @param  (Closure(string): void)|null  $told */
    public function __construct(private ?Closure $told = null)
    {
    }

    public function carryOut(Run $run): void
    {
        (new DatabaseRun($this->told))->carryOut($run);
    }

    public function canBePutBack(Run $run): bool
    {
        return ($run->outcome['can_put_back'] ?? false) || ($run->outcome['applied'] ?? false);
    }

    /** What was changed in the tables since goes with them. */
    public function losesLaterChanges(): bool
    {
        return true;
    }

    public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        try {
            $done = (new DatabaseRun)->putBack($run);
        } catch (PDOException $failure) {
            throw CannotRestore::because('The server refused: '.mb_scrub($failure->getMessage()));
        }
        $what = isset($run->outcome['by_table']) ? 'rows' : 'tables';

        return new PutBackTold(
            ['removed' => 0, 'left' => [], 'kept' => []] + $done, ['run' => $run->id] + $done,
            ["Run {$run->id} was put back: {$done['returned']} $what are as they were before it.", ...$done['remarks']], true,
        );
    }

    public function clearAside(Run $run, ?User $by): void
    {
        DatabaseRun::clearAside($run);
    }

    /** It begins anew, and keeps nothing meanwhile. */
    public function clearStaged(Run $run): void
    {
    }

    public function touches(Run $run): Touched
    {
        return TouchedServer::by(DatabaseOrder::fromArray($run->plan));
    }

    public function sentence(Run $run, string $zone): string
    {
        return DatabaseOrder::fromArray($run->plan)->inWords($run->workload->name, $zone);
    }

    public function came(Run $run): string
    {
        return Words::count((int) ($run->outcome['rows_restored'] ?? 0), 'row');
    }

    public function howFar(Run $run): string
    {
        return $run->files_total > 0 ? Words::count($run->files_total, 'transaction').' in the logs' : '';
    }

    public function besideProof(Run $run): array
    {
        return [];
    }

    public function evidence(array $evidence): array
    {
        return $evidence + ['approval' => null];
    }
}
