<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Kinds\Machines\Disks\DiskFacts;
use App\Kinds\Machines\Home\Substitute;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\MachineLook;
use App\Kinds\Machines\Snapshots\SnapshotRule;
use App\Kinds\Machines\Standing\Standing;
use App\Models\BackupSet;
use App\Models\Run;
use App\Models\User;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use Illuminate\Support\Facades\Gate;
use Kaiseki\Core\Hypervisor\DiskSettings;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Kaiseki\Core\Hypervisor\SnapshotSeen;

/** One machine at a hypervisor, as it was when both were looked at last. */
final readonly class MachineView
{
    public ?MachineLook $look;

    /** @var list<Workload> that it is, of those that this person sees */
    public array $workloads;

    /** @var list<BackupSet> the newest of each workload that it is */
    private array $newest;

    public string $name;

    public string $zone;

    /** By which snapshots of it are taken. */
    public ?SnapshotRule $rule;

    public function __construct(public HypervisorHost $host, public MachineSeen $machine, private User $viewer)
    {
        $this->zone = $viewer->zone;
        $this->name = $machine->settings->name;
        $this->look = MachineLook::at($host, $this->name);
        $sees = fn (Workload $workload): bool => $viewer->sees($workload->group);
        $this->workloads = array_values(array_filter($host->workloads($this->name), $sees));
        $this->rule = isset($this->workloads[0]) ? SnapshotRule::of($this->workloads[0]) : null;
        $newest = fn (Workload $workload): ?BackupSet => $workload->sets()->orderByDesc('instant')->first();
        $this->newest = array_values(array_filter(array_map($newest, $this->workloads)));
    }

    /** @return array<string, SnapshotSeen> the newest first */
    public function snapshots(): array
    {
        return $this->machine->newestSnapshots();
    }

    public function momentOf(SnapshotSeen $snapshot): CarbonImmutable
    {
        return CarbonImmutable::createFromTimestampUTC($snapshot->at);
    }

    /** Whether a set can be made of one: it is newer than all there are. */
    public function canBeKept(SnapshotSeen $snapshot): bool
    {
        return ($this->newest[0]->instant ?? 0) < $snapshot->at * 1_000_000;
    }

    public function since(): CarbonImmutable
    {
        return CarbonImmutable::createFromTimestampUTC((int) $this->machine->since);
    }

    public static function address(HypervisorHost $host, string $machine): string
    {
        return "/hypervisors/{$host->id}/machines/".rawurlencode($machine);
    }

    /** Of the machine that a run brought back; the estate if its hypervisor is not known any more. */
    public static function ofRun(Run $run): string
    {
        $host = HypervisorHost::query()->where('name', $run->plan['on'] ?? '')->first();

        return $host === null ? '/estate' : self::address($host, self::nameAfter($run));
    }

    /** What the machine that a run brought back is called. */
    public static function nameAfter(Run $run): string
    {
        $stands = Standing::ofRun($run);

        return $stands !== null && $stands->ended === null ? $stands->machine : (string) ($run->plan['machine'] ?? '');
    }

    /** If it stands on its sets: that. */
    public function standing(): ?Standing
    {
        return Standing::query()
            ->where('hypervisor_id', $this->host->id)
            ->where('machine', $this->name)
            ->whereNull('ended')
            ->with('run')
            ->first();
    }

    /** Whether a card of it is in an annex. */
    public function isApart(): bool
    {
        return $this->host->lastSeen()?->room->keepsApart($this->machine->settings) ?? false;
    }

    public function url(): string
    {
        return self::address($this->host, $this->name);
    }

    public function mayLook(): bool
    {
        return Gate::forUser($this->viewer)->allows('look', [$this->host, $this->name]);
    }

    public function mayTurn(): bool
    {
        return Gate::forUser($this->viewer)->allows('turn', [$this->host, $this->name]);
    }

    /** Whether something may be typed in it: as long as it only stands, and nobody lists elsewhere what is done in it. */
    public function mayType(): bool
    {
        return $this->mayTurn() && $this->machine->isRunning() && ! $this->isApart() && $this->standing() !== null;
    }

    public function isOfRun(): bool
    {
        return HypervisorHost::isOfRun($this->name);
    }

    public function isUnprotected(): bool
    {
        $isIt = fn (Substitute $one): bool => $one->isCalled($this->host, $this->name);

        return ! $this->isOfRun() && $this->host->workloads($this->name) === [] && ! Substitute::kept()->contains($isIt);
    }

    /** The newest set that holds a disk of it. */
    public function newestOf(DiskSettings $disk): ?BackupSet
    {
        foreach ($this->newest as $set) {
            if (isset(DiskFacts::ofSet($set)[$disk->name])) {
                return $set;
            }
        }

        return null;
    }

    public function isLeftOut(DiskSettings $disk): bool
    {
        foreach ($this->workloads as $workload) {
            if (in_array($disk->name, HypervisorHost::excluded($workload), true)) {
                return true;
            }
        }

        return false;
    }
}
