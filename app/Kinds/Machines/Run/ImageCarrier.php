<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Carrier;
use App\Kinds\Machines\Order\MachineOrder;
use App\Kinds\PutBackTold;
use App\Kinds\Touched;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Runs\RunLedger;
use App\Trees\Run\TouchedFolder;
use App\Trees\Run\TreeCarrier;
use App\Words;
use Closure;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Files\UnableToRestore;

/** Runs that write images of disks. */
final readonly class ImageCarrier implements Carrier
{
    /** @param  (Closure(string): void)|null  $told */
    public function __construct(private ?Closure $told = null)
    {
    }

    public function carryOut(Run $run): void
    {
        (new MachineRun($this->told))->carryOut($run);
    }

    public function canBePutBack(Run $run): bool
    {
        return $run->state === 'done';
    }

    public function losesLaterChanges(): bool
    {
        return false;
    }

    public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        if (! (new RunLedger($run))->giveUp()) {
            throw UnableToRestore::targetUnfit(MachineOrder::fromArray($run->plan)->folder, "run {$run->id} is still at work there");
        }
        $done = MachineRun::putBack($run);
        $run->update(['put_back_at' => now()]);
        $removed = Words::count(count($done->removed), 'file');
        TrailEntry::add("Run {$run->id} was put back: $removed removed.", $run->request, null, $run);
        $lines = ["The images that run {$run->id} wrote are removed: ".(implode(', ', $done->removed) ?: 'none was there').'.'];
        foreach ($done->left as $left) {
            $lines[] = "  {$left->told()}";
        }

        return new PutBackTold($done->kept(), ['run' => $run->id] + $done->kept(), $lines, $done->left === []);
    }

    /** Images replace nothing, so that nothing of them is kept aside. */
    public function clearAside(Run $run, ?User $by): void
    {
    }

    public function clearStaged(Run $run): void
    {
        $order = MachineOrder::fromArray($run->plan);
        $staging = RestoreOrder::stagingOf((string) $run->id);
        if ($order->look()->status($staging) !== null) {
            $order->open()->removeTree($staging);
        }
    }

    public function touches(Run $run): Touched
    {
        $order = MachineOrder::fromArray($run->plan);

        return new Touched([TouchedFolder::of($order->hostModel(), $order->folder, false)]);
    }

    public function sentence(Run $run, string $zone): string
    {
        return (new TreeCarrier)->sentence($run, $zone);
    }

    public function came(Run $run): string
    {
        return Words::count(count($run->outcome['disks'] ?? []), 'image').', '.Words::size((int) ($run->outcome['bytes'] ?? 0));
    }

    public function howFar(Run $run): string
    {
        return $run->bytes_total > 0 ? Words::size(intdiv($run->bytes_done, 2)).' of '.Words::size(intdiv($run->bytes_total, 2)) : '';
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
