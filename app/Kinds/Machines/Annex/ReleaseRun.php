<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Annex;

use App\Kinds\Machines\Disks\DisksTree;
use App\Kinds\Machines\Hypervisors\Answer;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Run\BootProof;
use App\Kinds\Machines\Run\ShutDown;
use App\Kinds\Machines\Run\WayAtHypervisor;
use App\Kinds\Machines\Run\WhoAnswers;
use App\Kinds\Machines\Scan\AnnexFinding;
use App\Kinds\Machines\Scan\AnnexScan;
use App\Kinds\Machines\Standing\StandingRun;
use App\Runs\RunLedger;
use App\Sets\Points;
use App\Words;
use Kaiseki\Core\Hypervisor\MachineSeen;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\Packets\Wanted;

/**
 * Releases a machine out of its annex: what has its name is set aside, it is shut down, put on the networks that it was stood up for, and
 * started again. It stands on its sets before and after.
 */
final class ReleaseRun extends StandingRun
{
    protected const STEPS = [
        'lock the machine', 'take the record of its annex', 'set aside what stands there', 'shut it down',
        'put it on its networks', 'start it', 'close the annex',
    ];

    protected const LEAVES = ' It stands as it did; if it is off, going on with this run starts it.';

    protected function order(): ReleaseOrder
    {
        return ReleaseOrder::fromArray($this->run->plan);
    }

    protected function work(RunLedger $ledger, Points $points): array
    {
        $annex = Annex::ofRun($this->standing->run) ?? throw CannotBring::because('It is in no annex.');
        $ledger->step(1, fn (): string => $this->record($annex));
        $ledger->step(2, fn (): string => $this->giveWay());
        $ledger->step(3, fn (): string => $this->shutDown());
        $ledger->step(4, fn (): string => $this->connect());
        $proof = new BootProof(
            $this->hypervisor,
            $this->standing->machine,
            Answer::of($this->run->workload),
            $this->run->refresh()->outcome['known'] ?? [],
            $this->progress,
        );
        $ledger->step(5, fn (): string => $proof->run());
        $ledger->step(6, function () use ($annex): string {
            $annex->close($this->hypervisor, Annex::RELEASED);
            $others = $annex->others()->count();

            return ($others === 0 ? 'nothing of it is left there' : Words::count($others, 'other machine').' in it still').
                '; its record is kept here';
        });
        $this->run->update(['outcome' => ['boot' => $proof->watch->account()] + ($this->run->outcome ?? [])]);
        $settings = $this->seen()->settings->with(name: $this->order->machine);

        return [WayAtHypervisor::configuredCheck($settings, $this->order->placed()->settings), $proof->check()];
    }

    private function seen(): MachineSeen
    {
        return $this->hypervisor->machine($this->standing->machine)
            ?? throw CannotBring::because("There is no machine {$this->standing->machine} at {$this->order->on} any more.");
    }

    private function record(Annex $annex): string
    {
        if ($annex->ended !== null || ! in_array($annex->name, $this->hypervisor->room()->annexes, true)) {
            return 'taken before';
        }
        $annex->look($this->hypervisor);

        $done = Words::count($annex->changes()->count(), 'thing');

        return Words::count($annex->packets(), 'packet')." wanted out, $done done in it";
    }

    /** What has the machine's name may run until now: the two could not meet. */
    private function giveWay(): string
    {
        $name = $this->order->machine;
        $there = $this->hypervisor->machine($name);
        $of = $this->standing->run;
        if ($there === null) {
            return isset($of->outcome['aside']) ? "the one before is {$of->outcome['aside']}" : 'nothing stands there';
        }
        $this->order()->isAside || throw CannotBring::because("There is a machine $name at {$this->order->on} now: it can be set aside.");
        $there->isRunning() && $this->hypervisor->stop($name, true);
        $aside = WayAtHypervisor::asideNameOf($of, $name);
        $of->update(['outcome' => ['aside' => $aside] + ($of->outcome ?? [])]);
        $this->hypervisor->rename($name, $aside);

        return "the one before is $aside";
    }

    private function isConnected(): bool
    {
        return $this->seen()->settings->cards == $this->order->placed()->settings->cards;
    }

    private function shutDown(): string
    {
        if (! $this->seen()->isRunning() || $this->isConnected()) {
            return ShutDown::WAS_OFF;
        }

        return ShutDown::of($this->hypervisor, $this->standing->machine, $this->progress);
    }

    private function connect(): string
    {
        $ordered = $this->order->placed()->settings;
        if (! $this->isConnected()) {
            $this->know();
            $this->hypervisor->configure($this->standing->machine, $this->seen()->settings->with(cards: $ordered->cards));
        }

        return implode(', ', $ordered->networks()) ?: 'it has no card';
    }

    /** By what it is told from another once it runs again: what its files hold now, for it has lived on since the point. */
    private function know(): void
    {
        $machine = $this->standing->machine;
        $doors = $disks = [];
        try {
            foreach ($this->seen()->settings->diskNames() as $disk) {
                $doors[] = $door = $this->hypervisor->openDisk($machine, $disk, false);
                $disks[$disk] = NbdDisk::open($door);
            }
            $known = WhoAnswers::wanted(Answer::of($this->run->workload), new DisksTree($machine, $disks));
            $this->run->update(['outcome' => ['known' => $known] + ($this->run->outcome ?? [])]);
        } finally {
            array_map(fn (NbdDisk $disk) => $disk->close(), $disks);
            array_map($this->hypervisor->closeDisk(...), $doors);
        }
    }

    protected function outcome(): array
    {
        return [];
    }

    protected function evidence(): array
    {
        $annex = Annex::ofRun($this->standing->run);
        $wanted = fn (Wanted $one): array => ['what' => $one->words(), 'packets' => $one->packets];
        $done = fn (AnnexChange $one): array => [
            'at' => $one->created_at->utc()->format('Y-m-d\TH:i:s\Z'),
            'what' => $one->words(),
            'why' => $one->why,
            'who' => $one->user->name ?? 'command line',
            'came' => $one->state,
        ];

        $scan = $annex === null ? null : AnnexScan::lastDoneOf($annex);

        return [
            'scanned' => $scan?->words(),
            'found' => $annex === null ? [] : AnnexFinding::of($annex)->map(fn (AnnexFinding $one): array => [
                'path' => $one->path, 'what' => $one->what, 'sha256' => $one->digest, 'verdict' => $one->verdict, 'why' => $one->why,
            ])->values()->all(),
            'wanted_in_annex' => array_map($wanted, $annex?->wanted() ?? []),
            'done_in_annex' => $annex?->changes()->with('user')->get()->map($done)->values()->all() ?? [],
        ];
    }

    protected function ended(): string
    {
        return 'is out of its annex';
    }
}
