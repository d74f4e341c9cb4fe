<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Intake;

use App\Hosts\HostCommand;
use App\Kinds\Machines\Disks\DiskOfPoint;
use App\Kinds\Machines\Disks\MachineTree;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\MakingOrder;
use App\Models\BackupSet;
use App\Models\History;
use App\Models\Workload;
use App\Sets\CannotRegister;
use App\Sets\Points;
use App\Sets\Protection;
use App\Trees\Intake\SetRegistration;
use InvalidArgumentException;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Kaiseki\Core\Hypervisor\Moment;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\Protect\Clock;
use Kaiseki\Core\Protect\Consistency;
use Kaiseki\Core\Protect\SystemClock;
use Kaiseki\Core\UnableToRead;
use Kaiseki\Core\UnableToWrite;

/**
 * Makes one set of a machine at its hypervisor, running or off: an image of each of its disks as all of them were in one instant, of all
 * that is no zeros, or of what is not as it was at the set below. The images are a chain that qemu-img reads.
 */
final class MachineProtection
{
    private readonly string $name;

    private readonly Hypervisor $hypervisor;

    private ?BackupSet $base = null;

    private Level $level;

    private History $history;

    private readonly Points $points;

    /** @var list<string> */
    private array $remarks;

    /** @var list<HostCommand> */
    private array $commands = [];

    /**
     * @param  string|null  $snapshot  kept at its storage, to make a set of that, as of its instant
     *
     * @throws InvalidArgumentException|CannotRegister if it cannot be made as it is ordered
     */
    public function __construct(
        private readonly Workload $workload,
        private readonly MakingOrder $order,
        private readonly Clock $clock = new SystemClock,
        private readonly ?string $snapshot = null,
    ) {
        if (! self::makes($order->level)) {
            throw new InvalidArgumentException("A machine has no {$order->level->words()}s that are made here; make a full, diff or incr.");
        }
        [$host, $name] = HypervisorHost::nowOf($workload) ?? throw new InvalidArgumentException(
            "It is not known which machine {$workload->name} is: kaiseki protect {$workload->name} --machine=HYPERVISOR:NAME",
        );
        $this->remarks = Protection::closed($order->store);
        $this->name = $name;
        $this->hypervisor = $host->open();
        $this->points = new Points($workload);
        $this->level = $order->level;
    }

    public static function makes(Level $level): bool
    {
        return in_array($level->name, ['full', 'diff', 'incr'], true);
    }

    /** @throws CannotRegister */
    public function make(): BackupSet
    {
        $began = hrtime(true);
        try {
            $machine = $this->hypervisor->machine($this->name) ?? throw CannotRegister::because("There is no machine {$this->name} now.");
            $disks = $this->disks($machine);
            $this->history = $this->history();
            $this->settleBase($machine, $disks);
            $set = $this->set($machine, $disks);
        } catch (HypervisorFailure $failure) {
            throw CannotRegister::because(ucfirst($failure->getMessage()).'.');
        } catch (UnableToWrite|UnableToRead $unable) {
            throw CannotRegister::because($unable->getMessage());
        } catch (UnreadableImage|UnreadableArchive $unreadable) {
            throw CannotRegister::because("What was written {$unreadable->getMessage()}.");
        }
        $said = array_values(array_filter(array_map(fn (HostCommand $command): ?string => $command->remark(), $this->commands)));
        $remarks = [...$set->remarks ?? [], ...$this->remarks, ...$said, ...$this->inside($set)];
        $set->update([
            'made_in_s' => round((hrtime(true) - $began) / 1e9, 3),
            'commands' => $this->commands === [] ? null : array_map(fn (HostCommand $of): array => $of->toArray(), $this->commands),
            'remarks' => $remarks === [] ? null : $remarks,
        ]);
        CheckFileSystems::dispatch($set->id);
        LookAtKernels::dispatch($set->id);

        return $set;
    }

    /** @return non-empty-list<string> of the machine, without those that are left out by rule */
    private function disks(MachineSeen $machine): array
    {
        $excluded = HypervisorHost::excluded($this->workload);
        $disks = array_values(array_diff($machine->settings->diskNames(), $excluded));
        if ($disks === []) {
            throw CannotRegister::because("{$this->name} has no disk".($excluded === [] ? '' : ' that is not left out by rule').'.');
        }
        foreach (array_intersect($machine->settings->diskNames(), $excluded) as $left) {
            $this->remarks[] = "The disk $left is left out by rule.";
        }

        return $disks;
    }

    private function history(): History
    {
        $newest = $this->workload->sets()->orderByDesc('instant')->value('history_id');
        $name = match (true) {
            $this->order->newHistory => (string) ($this->workload->histories()->count() + 1),
            $newest === null => '1',
            default => (string) History::query()->whereKey($newest)->value('name'),
        };

        return History::query()->firstOrCreate(['workload_id' => $this->workload->id, 'name' => $name]);
    }

    /**
     * What it is reckoned against; where nothing can be, it becomes a full.
     *
     * @param  list<string>  $disks
     */
    private function settleBase(MachineSeen $machine, array $disks): void
    {
        if ($this->level->isFull()) {
            return;
        }
        $asked = $this->level;
        $base = $this->order->newHistory ? null : SetRegistration::assumedBase($this->history->id, $asked);
        $why = match (true) {
            $this->order->newHistory => 'but a new history begins with a full.',
            $base === null => 'but there was no full before it, so it became a full.',
            default => $this->whyNotOver($base, $machine, $disks),
        };
        if ($why !== null) {
            $this->level = Level::of('full');
            $this->remarks[] = ucfirst($asked->words() === 'increment' ? 'an' : 'a')." {$asked->words()} was asked for, $why";

            return;
        }
        $this->base = $base;
    }

    /** @param  list<string>  $disks */
    private function whyNotOver(BackupSet $base, MachineSeen $machine, array $disks): ?string
    {
        $outline = $this->points->sets[$base->id] ?? null;
        foreach ($disks as $disk) {
            $of = $outline === null ? null : DiskOfPoint::of($this->points, $outline, $disk);
            if ($of === null) {
                continue; // it is new: all of it is taken
            }
            if (! $of->hasBottom) {
                return "but it is not known what {$base->name} rests on, so it became a full.";
            }
            if ($of->plan()->size() !== $machine->settings->disk($disk)?->size) {
                return "but the disk $disk has another size since, so it became a full.";
            }
        }

        return $outline === null ? "but {$base->name} is not there, so it became a full." : null;
    }

    /** @param  non-empty-list<string>  $disks */
    private function set(MachineSeen $machine, array $disks): BackupSet
    {
        $at = $this->snapshot === null ? $this->clock->now() : $this->instantOf($machine, $this->snapshot);
        $name = "{$this->workload->name}.{$this->level->name}.".$at->in()->format('Ymd\THis\Z');
        SetRegistration::refuseIfKnown($this->workload, $name);
        $work = new MachineSetFiles($this->workload, $this->order->store, $name, $this->level, $at, $this->history->name);
        $this->command('before', $this->order->before, $machine);
        try {
            $moment = $this->hypervisor->beginMoment($this->name, $disks, $name, $this->snapshot);
        } finally {
            $this->command('after', $this->order->after, $machine); // it goes on from here, while what was is read
        }
        $isKept = false;
        try {
            foreach ($disks as $disk) {
                $work->write($disk, $moment, $this->over($disk), $this->known($moment, $disk), $this->order->progress);
            }
            $set = $this->enter($work, $moment, $machine);
            $isKept = true;
        } finally {
            $work->clear();
            $this->hypervisor->endMoment($this->name, $isKept);
        }

        return $set;
    }

    /** @throws CannotRegister if there is no such snapshot, or one set that is newer: a chain goes forward */
    private function instantOf(MachineSeen $machine, string $snapshot): Instant
    {
        $kept = $machine->snapshots[$snapshot] ?? throw CannotRegister::because("No snapshot $snapshot of {$this->name} is kept.");
        $newer = $this->workload->sets()->where('instant', '>=', $kept->at * 1_000_000)->value('name');
        $newer === null || throw CannotRegister::because("The set $newer is newer than the snapshot $snapshot, and stands for it.");
        $this->remarks[] = "It was made of the snapshot $snapshot, which was kept at the storage of the machine.";

        return Instant::ofMicroseconds($kept->at * 1_000_000);
    }

    /** The disk as it was at the set below. */
    private function over(string $disk): ?DiskOfPoint
    {
        return $this->base === null ? null : DiskOfPoint::of($this->points, $this->points->sets[$this->base->id], $disk);
    }

    /** The disk as it was at the set under whose mark is known what changed since; null where all of it is compared. */
    private function known(Moment $moment, string $disk): ?DiskOfPoint
    {
        $set = $this->points->set($moment->since[$disk] ?? '');
        $of = $set === null || $this->points->model($set)->history_id !== $this->history->id
            ? null
            : DiskOfPoint::of($this->points, $set, $disk);

        return $of?->hasBottom === true ? $of : null;
    }

    private function enter(MachineSetFiles $work, Moment $moment, MachineSeen $machine): BackupSet
    {
        $excluded = array_values(array_diff($machine->settings->diskNames(), array_keys($moment->doors)));
        $consistency = $this->consistency($moment);
        $work->record($this->base?->name, $this->order->level, $moment->settings, $consistency->value, $excluded);
        $registration = new ImageRegistration($this->workload, $this->order->store, null);
        $set = $registration->addOwn($work->found(), $this->base, $moment->settings, $consistency, $excluded);
        $work->keep();

        return $set;
    }

    /** Its programs were at rest if it was off; or if they were told to be, and its file systems were at rest as well. */
    private function consistency(Moment $moment): Consistency
    {
        if (! $moment->isRunning) {
            return Consistency::Application;
        }
        if ($moment->unrest !== null) {
            $this->remarks[] = "It ran, and its file systems were not brought to rest: {$moment->unrest}.";

            return Consistency::Crash;
        }
        $right = array_filter($this->commands, fn (HostCommand $command): bool => $command->isRight());
        $wereTold = $this->commands !== [] && $right === $this->commands && $this->commands[0]->when === 'before';

        return $wereTold ? Consistency::Application : Consistency::Files;
    }

    /**
     * A command of the order is run in the machine itself, by its agent.
     *
     * @param  list<string>|null  $command
     */
    private function command(string $when, ?array $command, MachineSeen $machine): void
    {
        if ($command === null || $command === [] || ! $machine->isRunning()) {
            return;
        }
        $limit = min($this->order->limit, Hypervisor::MOST_SECONDS);
        $this->commands[] = HostCommand::carriedOut($when, $command, function () use ($command, $limit): array {
            try {
                $outcome = $this->hypervisor->runInside($this->name, $command, $limit);

                return [$outcome->exit, $outcome->output];
            } catch (HypervisorFailure $failure) {
                return [null, 'it could not be run: '.$failure->getMessage()];
            }
        });
    }

    /** @return list<string> of what single files cannot be had */
    private function inside(BackupSet $set): array
    {
        $points = new Points($this->workload);
        $remarks = [];
        foreach ((new MachineTree($points, $points->sets[$set->id]))->volumes() as $volume) {
            if ($volume->files === null) {
                $remarks[] = "Single files cannot be had from {$volume->name}: {$volume->because}.";
            }
        }

        return $remarks;
    }
}
