<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Into;

use App\Kinds\Machines\Disks\MachineTree;
use App\Kinds\Machines\Order\IntoOrder;
use App\Kinds\Machines\Run\PutBackDone;
use App\Models\Run;
use App\Sets\Points;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\UnableToWrite;

/** Undoes a run that brought files into a machine that runs: what it brought goes, what it had moved aside comes back. */
final class RunningBack
{
    private readonly IntoOrder $order;

    private readonly Inside $inside;

    private readonly PutBackDone $done;

    public function __construct(private readonly Run $run)
    {
        $this->done = new PutBackDone;
        $this->order = IntoOrder::fromArray($run->plan);
        $this->inside = new Inside($this->order->host()->open(), $this->order->machine);
    }

    /** @throws UnableToRestore|HypervisorFailure */
    public function putBack(bool $alsoChanged): PutBackDone
    {
        $points = new Points($this->run->workload);
        $stage = IntoRunningRun::stage($this->run, $this->order);
        try {
            $this->inside->free(IntoRunningRun::folder($this->run, $this->order));
            $this->inside->prepare($stage);
            foreach (array_reverse(($this->run->outcome ?? [])['moved'] ?? [], true) as $name => $place) {
                $this->one($points, (string) $name, $place, $stage, $alsoChanged);
            }
            $this->inside->remove($stage);
        } finally {
            $points->stores->release();
        }

        return $this->done;
    }

    /** @param  array{at: string, aside: string|null}  $place */
    private function one(Points $points, string $name, array $place, string $stage, bool $alsoChanged): void
    {
        $at = $place['at'];
        if ($this->inside->stands($at)) {
            if (! $alsoChanged && ! $this->isAsBrought($points, $name, $at, $stage)) {
                $this->done->leave(Shown::name($at), 'changed since');

                return;
            }
            $this->inside->remove($at);
            $this->done->removed[] = Shown::name($at);
        }
        if ($place['aside'] !== null && $this->inside->stands($place['aside'])) {
            $this->inside->move($place['aside'], $at);
            $this->done->returned[] = Shown::name($at);
        }
    }

    /** Compared with the point again: what is in it now, and nothing else. */
    private function isAsBrought(Points $points, string $name, string $at, string $stage): bool
    {
        $paths = array_filter($this->order->paths, fn (string $path): bool => basename($path) === $name);
        $sent = new FilesSent(new MachineTree($points, $points->sets[$this->run->set_id], $this->order->copies), array_values($paths));
        $sent->writeTo(fopen('/dev/null', 'wb') ?: throw UnableToWrite::open('/dev/null', 'What is compared')); // its lists are wanted
        $now = basename($at);
        $this->inside->write("$stage/digests", $sent->digests($now));
        $this->inside->write("$stage/facts", $sent->stats($now));
        $folder = IntoRunningRun::folder($this->run, $this->order);

        return $this->inside->hasDigests($folder, "$stage/digests") && $this->inside->otherFacts($folder, "$stage/facts", [$now]) === null;
    }

    /** What it had moved aside goes for good. */
    public function clearAside(): void
    {
        foreach (($this->run->outcome ?? [])['moved'] ?? [] as $place) {
            $place['aside'] === null || $this->inside->remove($place['aside']);
        }
    }
}
