<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Carrier;
use App\Kinds\PutBackTold;
use App\Kinds\Touched;
use App\Kinds\TouchedPlace;
use App\Models\Run;
use App\Models\User;
use App\Trees\Run\TreeCarrier;
use App\Words;
use Closure;
use Kaiseki\Core\Files\UnableToRestore;

/** Runs that bring a machine onto the disks of another. */
final readonly class MetalCarrier implements Carrier
{
    /** @param  (Closure(string): void)|null  $told */
    public function __construct(private ?Closure $told = null)
    {
    }

    public function carryOut(Run $run): void
    {
        (new MetalRun($this->told))->carryOut($run);
    }

    /** What stood on those disks is gone. */
    public function canBePutBack(Run $run): bool
    {
        return false;
    }

    public function losesLaterChanges(): bool
    {
        return false;
    }

    public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        throw UnableToRestore::refused('What stood on the disks of that machine was written over, and cannot be put back.');
    }

    public function clearAside(Run $run, ?User $by): void
    {
    }

    public function clearStaged(Run $run): void
    {
        $exchange = Exchange::of($run);
        $exchange->isBegun() && $exchange->keepTold();
    }

    /** Disks of a machine that nobody knew before: whose they are is confirmed by their serial numbers. */
    public function touches(Run $run): Touched
    {
        return new Touched([new TouchedPlace('that machine', true, [], null)]);
    }

    public function sentence(Run $run, string $zone): string
    {
        return (new TreeCarrier)->sentence($run, $zone);
    }

    public function came(Run $run): string
    {
        $disks = count($run->outcome['disks'] ?? []);

        return Words::count($disks, 'disk').' of another machine'.(($run->outcome['rehearsed'] ?? false) ? ', rehearsed' : '');
    }

    public function howFar(Run $run): string
    {
        return $run->bytes_done > 0 ? Words::size($run->bytes_done) : '';
    }

    public function besideProof(Run $run): array
    {
        return [];
    }

    public function evidence(array $evidence): array
    {
        return $evidence;
    }
}
