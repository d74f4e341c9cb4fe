<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Home;

use App\Kinds\Machines\Names\LeadNames;
use App\Kinds\Machines\Names\LedName;
use App\Kinds\Machines\Run\MachineLock;
use App\Kinds\Machines\Run\PlacementUndo;
use App\Kinds\Machines\Run\PutBackDone;
use App\Kinds\Machines\Run\ShutDown;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Runs\RunLedger;
use Closure;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/** Back to what stood in, as long as nobody has accepted that the machine is home. What is at home stays there, off. */
final readonly class WayBack
{
    private HomeOrder $order;

    private Substitute $substitute;

    public function __construct(private Run $run)
    {
        $this->order = HomeOrder::fromArray($run->plan);
        $this->substitute = $this->order->substitute();
    }

    public static function isPossible(Run $run): bool
    {
        $outcome = $run->outcome ?? [];

        return isset($outcome['shut_down']) && $run->put_back_at === null && ($outcome['aside_cleared'] ?? false) !== true;
    }

    /**
     * @param  bool  $staysBehind  whether what came at home since may stay behind there
     *
     * @throws UnableToRestore
     */
    public function take(bool $staysBehind): PutBackDone
    {
        (new RunLedger($this->run))->giveUp() || throw UnableToRestore::refused("Run {$this->run->id} is still at work.");
        [$home, $away] = ["{$this->order->machine} at {$this->order->on}", "{$this->substitute->machine} at {$this->order->from}"];

        return $this->locked(function () use ($staysBehind, $home, $away): PutBackDone {
            $done = new PutBackDone;
            $hypervisor = $this->order->home()->open();
            if ($hypervisor->machine($this->order->machine)?->isRunning() === true) {
                if (! $staysBehind) {
                    $done->leave($away, "$home runs, and nothing that came there since is in it: say that this may stay behind");

                    return $done;
                }
                ShutDown::of($hypervisor, $this->order->machine);
            }
            $this->standInAgain();

            $done->returned[] = "$away, which runs; $home stays there, off, with what came since";

            return $done;
        });
    }

    private function standInAgain(): void
    {
        $this->substitute->hypervisor->holds($this->run->workload, $this->substitute->machine);
        $this->substitute->again();
        $led = array_map(LedName::fromArray(...), array_values((array) ($this->run->outcome['led'] ?? [])));
        foreach (LeadNames::go(LeadNames::turned($led)) as $check) {
            TrailEntry::add("{$check->detail}.", $this->run->request, null, $this->run, workload: $this->run->workload);
        }
        $there = $this->substitute->hypervisor->open();
        $name = $this->substitute->nameThere();
        $machine = $there->machine($name)
            ?? throw UnableToRestore::refused("There is no machine $name at {$this->order->from} any more.");
        $machine->isRunning() || $there->start($name);
    }

    /**
     * That the machine is home is accepted: what stood in goes for good, with what it had set aside there put in its place again.
     *
     * @throws UnableToRestore
     */
    public function close(): void
    {
        $brought = $this->substitute->run;
        if (PlacementUndo::isPossible($brought)) {
            $left = (new PlacementUndo($brought))->putBack(true)->left;
            $left === [] || throw UnableToRestore::refused("{$left[0]->path} is left: {$left[0]->because}.");
            $brought->update(['put_back_at' => now(), 'set_aside_until' => null]);

            return;
        }
        $this->locked(function (): void {
            $there = $this->substitute->hypervisor->open();
            $machine = $there->machine($this->substitute->machine);
            $machine?->isRunning() === true && throw UnableToRestore::refused("{$this->substitute->machine} at {$this->order->from} runs.");
            $machine === null || $there->delete($this->substitute->machine);
        });
    }

    /**
     * @template T
     *
     * @param  Closure(): T  $work
     * @return T
     *
     * @throws UnableToRestore
     */
    private function locked(Closure $work): mixed
    {
        MachineLock::take($this->substitute->machine, $this->order->from);
        try {
            return $work();
        } catch (HypervisorFailure $failure) {
            throw UnableToRestore::refused(ucfirst($failure->getMessage()).'.');
        } finally {
            MachineLock::free($this->substitute->machine, $this->order->from);
            $this->substitute->hypervisor->lookIfItAnswers();
            $this->order->home()->lookIfItAnswers();
        }
    }
}
