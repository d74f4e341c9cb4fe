<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Carrier;
use App\Kinds\PutBackTold;
use App\Kinds\Touched;
use App\Models\Run;
use App\Models\User;
use App\Trees\Run\TreeCarrier;
use Closure;

/** Runs that bring files out of a machine: as all files are brought, but that they are read elsewhere. */
final readonly class MachineFilesCarrier implements Carrier
{
    private TreeCarrier $trees;

    /** @param  (Closure(string): void)|null  $told */
    public function __construct(private ?Closure $told = null)
    {
        $this->trees = new TreeCarrier;
    }

    public function carryOut(Run $run): void
    {
        (new MachineFilesRun($this->told))->carryOut($run);
    }

    public function canBePutBack(Run $run): bool
    {
        return $this->trees->canBePutBack($run);
    }

    public function losesLaterChanges(): bool
    {
        return $this->trees->losesLaterChanges();
    }

    public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        return TreeCarrier::told($run, (new MachineFilesRun)->putBack($run, $alsoChanged));
    }

    public function clearAside(Run $run, ?User $by): void
    {
        $this->trees->clearAside($run, $by);
    }

    public function clearStaged(Run $run): void
    {
        $this->trees->clearStaged($run);
    }

    public function touches(Run $run): Touched
    {
        return $this->trees->touches($run);
    }

    public function sentence(Run $run, string $zone): string
    {
        return $this->trees->sentence($run, $zone);
    }

    public function came(Run $run): string
    {
        return $this->trees->came($run);
    }

    public function howFar(Run $run): string
    {
        return $this->trees->howFar($run);
    }

    public function besideProof(Run $run): array
    {
        return $this->trees->besideProof($run);
    }

    public function evidence(array $evidence): array
    {
        return $this->trees->evidence($evidence);
    }
}
