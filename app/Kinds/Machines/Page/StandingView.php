<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Standing\ServedDisks;
use App\Kinds\Machines\Standing\ServedState;
use App\Kinds\Machines\Standing\Standing;
use App\Kinds\Machines\Standing\StandingOrder;
use App\Models\Run;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Kaiseki\Core\Hypervisor\Storage;

/** A machine that stands on its sets, as it was when it was looked at last. */
final readonly class StandingView
{
    public ServedState $read;

    public bool $isServed;

    private ?MachineSeen $machine;

    private function __construct(public Standing $standing)
    {
        $served = ServedDisks::of($standing->run);
        $this->read = $served->state();
        $this->isServed = $served->isServed();
        $this->machine = $standing->hypervisor->lastSeen()->machines[$standing->machine] ?? null;
    }

    /** The one that a run stood up, or settles; null where it does not stand any more. */
    public static function ofRun(Run $run): ?self
    {
        $of = StandingOrder::standsBy($run);
        $standing = Standing::query()->where('run_id', $of)->whereNull('ended')->with('run', 'hypervisor', 'settling')->first();

        return $standing === null ? null : new self($standing);
    }

    /** @return list<StandingDisk> */
    public function disks(): array
    {
        $disks = [];
        foreach ($this->machine->settings->disks ?? [] as $disk) {
            $lies = $this->machine->storages[$disk->name] ?? '';
            $goes = $this->standing->settling->plan['storages'][$disk->name] ?? $this->standing->storages[$disk->name] ?? $lies;
            $disks[] = new StandingDisk($disk->name, $disk->size, in_array($disk->name, $this->machine->sources ?? [], true), $lies, $goes);
        }

        return $disks;
    }

    /** @return list<Storage> of its hypervisor, as it was looked at last */
    public function storages(): array
    {
        return $this->standing->hypervisor->lastSeen()->room->storages ?? [];
    }

    /** Whether it is in an annex. */
    public function isApart(): bool
    {
        return Annex::around($this->standing->run) !== null;
    }

    /** Bytes that it has of its own. */
    public function held(): int
    {
        return array_sum($this->machine->held ?? []);
    }

    public function isRunning(): bool
    {
        return $this->machine?->isRunning() ?? false;
    }
}
