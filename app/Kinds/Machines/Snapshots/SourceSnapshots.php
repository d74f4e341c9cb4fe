<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Snapshots;

use App\Kinds\Kinds;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Intake\MachineProtection;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\MakingOrder;
use App\Models\BackupSet;
use App\Models\Store;
use App\Models\Workload;
use App\Sets\CannotRegister;
use App\Sets\Protection;
use Carbon\CarbonImmutable;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\SnapshotSeen;
use Kaiseki\Core\Protect\SystemClock;

/** What is kept of a machine at its own storage: quickly had, and gone with that storage. */
final readonly class SourceSnapshots
{
    /** With which the names of those begin that were taken here; others are left alone. */
    private const OURS = 'kaiseki-';

    private HypervisorHost $host;

    private string $machine;

    private Hypervisor $hypervisor;

    /** @throws CannotBring if it is not known which machine it is */
    public function __construct(private Workload $workload)
    {
        [$this->host, $this->machine] = HypervisorHost::nowOf($workload)
            ?? throw CannotBring::because("It is not known which machine {$workload->name} is.");
        $this->hypervisor = $this->host->open();
    }

    /**
     * @return array<string, SnapshotSeen> the newest first
     *
     * @throws HypervisorFailure|CannotBring
     */
    public function all(): array
    {
        $machine = $this->hypervisor->machine($this->machine)
            ?? throw CannotBring::because("There is no machine {$this->machine} at {$this->host->name} now.");

        return $machine->newestSnapshots();
    }

    /**
     * @return string its name
     *
     * @throws HypervisorFailure
     */
    public function take(): string
    {
        $name = self::OURS.CarbonImmutable::now('UTC')->format('Ymd\THis\Z');
        $this->hypervisor->takeSnapshot($this->machine, $name);
        $this->host->lookIfItAnswers();

        return $name;
    }

    /** @throws HypervisorFailure */
    public function drop(string $name): void
    {
        $this->hypervisor->dropSnapshot($this->machine, $name);
        $this->host->lookIfItAnswers();
    }

    /**
     * Of those taken here the newest stay.
     *
     * @throws HypervisorFailure|CannotBring
     */
    public function prune(int $keep): void
    {
        $ours = array_filter(array_keys($this->all()), fn (string $name): bool => str_starts_with($name, self::OURS));
        foreach (array_slice($ours, $keep) as $name) {
            $this->hypervisor->dropSnapshot($this->machine, $name);
        }
        $this->host->lookIfItAnswers();
    }

    /**
     * Makes a set of one, which outlives the storage of the machine, and from which files and machines are brought back as from any.
     *
     * @throws CannotRegister
     */
    public function keep(string $name, ?Store $store = null): BackupSet
    {
        $level = Level::of(Kinds::of($this->workload)->source($this->workload)->levelOfPresent());
        $order = new MakingOrder($store ?? Protection::usualStore($this->workload), $level, why: "made of the snapshot $name");

        return (new MachineProtection($this->workload, $order, new SystemClock, $name))->make();
    }
}
