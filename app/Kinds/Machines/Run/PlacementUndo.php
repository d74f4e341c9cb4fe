<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Home\Substitute;
use App\Kinds\Machines\Order\MachineWay;
use App\Kinds\Machines\Order\PlacementOrder;
use App\Kinds\Machines\Standing\Following;
use App\Kinds\Machines\Standing\ServedDisks;
use App\Kinds\Machines\Standing\Standing;
use App\Models\Run;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\MachineSettings;

/** Undoes what a run did at a hypervisor, and clears up what it keeps there. */
final class PlacementUndo
{
    private readonly PlacementOrder $order;

    private readonly Hypervisor $hypervisor;

    private PutBackDone $done;

    public function __construct(private readonly Run $run)
    {
        $this->done = new PutBackDone;
        $this->order = PlacementOrder::fromArray($run->plan);
        $this->hypervisor = $this->order->host()->open();
    }

    public static function isPossible(Run $run): bool
    {
        $outcome = $run->outcome ?? [];
        $did = array_intersect_key($outcome, array_flip(['placed', 'aside', 'begun', 'changed_places', 'settings_before']));
        $stands = Standing::ofRun($run) !== null;

        return ($did !== [] || $stands) && $run->put_back_at === null && ($outcome['aside_cleared'] ?? false) !== true;
    }

    /** @throws UnableToRestore */
    public function putBack(bool $alsoChanged): PutBackDone
    {
        $this->locked(function () use ($alsoChanged): void {
            $stands = Standing::ofRun($this->run)?->ended === null && $this->order->way === MachineWay::StandUp;
            $stands || $this->refuseRunning();
            match ($this->order->way) {
                MachineWay::StandUp => $stands ? $this->drop() : $this->wholeBack($alsoChanged),
                MachineWay::Whole => $this->wholeBack($alsoChanged),
                MachineWay::Disks => $this->disksBack($alsoChanged),
                MachineWay::Rollback => $this->blocksBack(),
                MachineWay::Configuration => $this->settingsBack($alsoChanged),
            };
            $this->done->left === [] && Substitute::active($this->run)?->drop();
        });

        return $this->done;
    }

    private function refuseRunning(): void
    {
        if ($this->hypervisor->machine($this->order->machine)?->isRunning()) {
            throw UnableToRestore::refused("{$this->order->machine} at {$this->order->on} runs: shut it down first.");
        }
    }

    /** A machine that stands goes with all that it wrote; what had its name has it again. */
    private function drop(): void
    {
        $standing = Standing::ofRun($this->run);
        if ($standing?->isBeingSettled()) {
            throw UnableToRestore::refused("Run {$standing->settled_by} settles it: stop that first.");
        }
        $name = StoodUp::nameOf($this->run, $this->order->machine);
        $machine = $this->hypervisor->machine($name);
        if ($machine !== null) {
            $machine->isRunning() && $this->hypervisor->stop($name, true);
            $this->hypervisor->delete($name);
            $this->done->removed[] = "the machine $name, and what it wrote";
        }
        Annex::around($this->run)?->close($this->hypervisor, Annex::DROPPED);
        $this->asideBack();
        $standing === null ? ServedDisks::of($this->run)->end() : $standing->end(Standing::DROPPED);
    }

    /** @param  callable(): void  $work */
    private function locked(callable $work): void
    {
        MachineLock::take($this->order->machine, $this->order->on);
        try {
            $work();
        } catch (HypervisorFailure $failure) {
            throw UnableToRestore::refused(ucfirst($failure->getMessage()).'.');
        } finally {
            MachineLock::free($this->order->machine, $this->order->on);
            PlacementRun::lookAgain($this->order);
        }
    }

    private function wholeBack(bool $alsoChanged): void
    {
        $name = $this->order->machine;
        $isPlaced = $this->kept('placed') !== null;
        $changed = $isPlaced ? $this->changedSince($name, $this->order->settings->diskNames()) : [];
        if ($changed !== [] && ! $alsoChanged) {
            $this->done->leave($name, 'changed since: '.implode(', ', $changed));

            return;
        }
        if ($isPlaced && $this->hypervisor->machine($name) !== null) {
            $this->hypervisor->delete($name);
            $this->done->removed[] = "the machine $name";
        }
        $this->asideBack();
        $this->clearMade();
        Following::active($this->run)?->end(Following::DROPPED);
    }

    private function asideBack(): void
    {
        $aside = $this->kept('aside');
        if ($aside !== null && $this->hypervisor->machine($aside) !== null) {
            $this->hypervisor->rename($aside, $this->order->machine);
            $this->done->returned[] = "the machine {$this->order->machine} as it stood there";
        }
    }

    private function disksBack(bool $alsoChanged): void
    {
        $aside = $this->kept('aside') ?? NewMachine::nameOfMade($this->run, $this->order->machine);
        foreach ($this->hypervisor->machine($aside) === null ? [] : $this->order->disks as $disk) {
            $isNew = in_array(WayAtHypervisor::markOf($this->run), $this->hypervisor->marks($aside, $disk), true);
            if ($isNew) {
                continue; // it never changed places
            }
            if (! $alsoChanged && $this->changedSince($this->order->machine, [$disk]) !== []) {
                $this->done->leave($disk, 'changed since');

                continue;
            }
            $this->hypervisor->swapDisk($this->order->machine, $disk, $aside);
            $this->done->returned[] = "the disk $disk as it was";
        }
        if ($this->done->left === [] && $this->hypervisor->machine($aside) !== null) {
            $this->hypervisor->delete($aside);
            $this->done->removed[] = 'the disks that were brought';
        }
    }

    private function blocksBack(): void
    {
        $this->done = (new BlocksBack($this->run, $this->hypervisor, $this->order->machine))->write($this->order->disks);
    }

    private function settingsBack(bool $alsoChanged): void
    {
        $before = $this->run->outcome['settings_before'] ?? null;
        $set = $this->run->outcome['settings'] ?? null;
        $now = $this->hypervisor->machine($this->order->machine)?->settings;
        if (! is_array($before) || $now === null) {
            return;
        }
        if (! $alsoChanged && is_array($set) && $now->differences(MachineSettings::fromArray($set)) !== []) {
            $this->done->leave($this->order->machine, 'it was configured otherwise since');

            return;
        }
        $this->hypervisor->configure($this->order->machine, MachineSettings::fromArray($before));
        $this->done->returned[] = 'how it was configured';
    }

    /**
     * @param  list<string>  $disks
     * @return list<string>
     */
    private function changedSince(string $machine, array $disks): array
    {
        return (new BlocksBack($this->run, $this->hypervisor, $machine))->changedSince($disks);
    }

    private function kept(string $what): ?string
    {
        $value = ($this->run->outcome ?? [])[$what] ?? null;

        return $value === null || $value === false ? null : (string) $value;
    }

    private function clearMade(): void
    {
        $made = NewMachine::nameOfMade($this->run, $this->order->machine);
        if ($this->hypervisor->machine($made) !== null) {
            $this->hypervisor->delete($made);
        }
    }

    /** What stood there, and is kept, goes for good. */
    public function clearAside(): void
    {
        $this->locked(function (): void {
            $aside = $this->kept('aside');
            if ($aside !== null && $this->hypervisor->machine($aside) !== null) {
                $this->hypervisor->delete($aside);
            }
            (new BlocksAside($this->run))->remove();
        });
    }

    /** What was made and never put in place. */
    public function clearStaged(): void
    {
        $this->locked(fn () => $this->clearMade());
    }
}
