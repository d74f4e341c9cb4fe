<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Into;

use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\IntoOrder;
use App\Kinds\Machines\Run\BlocksAside;
use App\Kinds\Machines\Run\MachineProof;
use App\Kinds\Machines\Run\WayAtHypervisor;
use App\Runs\RunLedger;
use App\Runs\SetAsides;
use App\Words;
use Closure;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Files\LeftOut;
use Kaiseki\Core\Hypervisor\NbdDisk;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Proof\CheckLine;
use Kaiseki\Core\Volume\Partition;
use Kaiseki\Core\Volume\PartitionTable;
use Symfony\Component\Filesystem\Filesystem;

/**
 * Brings files into a machine that is off. Each file system they go to is copied, changed and checked here; then the blocks that became
 * others are kept, and written. A run that was cut off while it wrote takes that back first, and begins anew.
 */
final class IntoRun extends FilesIntoMachine
{
    protected const STEPS = [
        'lock the machine', 'attach the media', 'copy its file systems', 'write the files into the copies', 'check the copies',
        'keep what will be written over', 'write it to its disks', 'read it again',
    ];

    /** @var array<array-key, VolumeCopy> by volume */
    private array $copies = [];

    /** @var array<array-key, FilesIntoVolume> by volume */
    private array $files = [];

    protected function whatWasDone(): string
    {
        return ($this->run->refresh()->outcome['begun'] ?? false) === true
            ? ' Some of it is written: do not start the machine so, but carry the run on, or put it back.'
            : ' The machine is as it was.';
    }

    protected function carry(RunLedger $ledger): void
    {
        $this->refuseUnfit();
        $ledger->step(2, fn (): string => $this->takeCopies());
        $ledger->step(3, fn (): string => $this->fill());
        $ledger->step(4, fn (): string => $this->checkCopies());
        $ledger->step(5, fn (): string => $this->keep());
        $ledger->step(6, fn (): string => $this->write());
        $blocks = 0;
        $ledger->step(7, function () use (&$blocks): string {
            $blocks = $this->readAgain();

            return Words::count($blocks, 'block').' as written';
        });
        $this->finish($ledger, $blocks);
    }

    private function refuseUnfit(): void
    {
        $name = "{$this->order->machine} at {$this->order->on}";
        $machine = $this->hypervisor->machine($this->order->machine) ?? throw CannotBring::because("There is no machine $name now.");
        ! $machine->isRunning() || throw CannotBring::because("$name runs: it must be shut down for this.");
    }

    /** Where a path of the point goes, with the name of the volume first. */
    private function goesTo(string $path): string
    {
        return $this->order->folder === '' ? $path : EntryPath::join($this->order->folder, EntryPath::split($path)[1]);
    }

    private function takeCopies(): string
    {
        $volumes = array_unique(array_map(fn (string $path): string => explode('/', $this->goesTo($path), 2)[0], $this->order->paths));
        foreach ($volumes as $number => $volume) {
            [$disk, $place] = $this->placeOf($volume);
            $this->withDisk($disk, false, function (NbdDisk $from) use ($volume, $disk, $place, $number): void {
                $copy = VolumeCopy::take($volume, $disk, $from, $place, "{$this->work}/volume-$number", $this->tell(...));
                $copy->settle();
                $this->copies[$volume] = $copy;
            });
        }

        return implode(', ', $volumes).': whole';
    }

    /** @return array{string, Partition} the disk of the machine, and where on it the volume lies */
    private function placeOf(string $volume): array
    {
        $machine = $this->hypervisor->machine($this->order->machine);
        foreach ($machine?->settings->diskNames() ?? [] as $disk) {
            if ($volume === $disk || str_starts_with($volume, "$disk.")) {
                $this->takeBackIfCut($disk);
                foreach ($this->withDisk($disk, false, PartitionTable::of(...)) as $partition) {
                    if ($volume === ($partition->number === 0 ? $disk : "$disk.{$partition->number}")) {
                        return [$disk, $partition];
                    }
                }
            }
        }
        throw CannotBring::because("{$this->order->machine} at {$this->order->on} has no volume $volume.");
    }

    /** What an attempt before had begun to write. */
    private function takeBackIfCut(string $disk): void
    {
        $aside = new BlocksAside($this->run);
        if (($this->run->outcome['begun'] ?? false) === true && $aside->has($disk)) {
            $this->withDisk($disk, true, fn (NbdDisk $to) => $aside->writeTo($disk, $to));
        }
    }

    private function fill(): string
    {
        foreach ($this->copies as $volume => $copy) {
            $stage = "{$this->work}/stage-".count($this->files);
            (new Filesystem)->mkdir($stage, 0700);
            $this->files[$volume] = new FilesIntoVolume($copy, $this->order->conflict, $this->order->date, $stage);
        }
        foreach ($this->order->paths as $path) {
            foreach ($this->tree->below($path) as $at => $file) {
                $to = $this->goesTo($path).substr((string) $at, strlen($path));
                [$volume, $within] = [...explode('/', $to, 2), ''];
                $of = $this->tree->volumes()[explode('/', (string) $at, 2)[0]]->files;
                $of === null || $this->files[$volume]->add($within, $file, $of);
            }
        }
        foreach ($this->files as $files) {
            $files->write();
        }

        return Words::count($this->sum('files'), 'file').', '.Words::size($this->sum('bytes'));
    }

    private function sum(string $of): int
    {
        return array_sum(array_map(fn (FilesIntoVolume $files): int => $files->$of, $this->files));
    }

    private function checkCopies(): string
    {
        foreach ($this->copies as $volume => $copy) {
            $copy->check('would not be whole with these files in it, so that nothing was written');
            $wrong = $this->files[$volume]->wrong();
            $wrong === [] || throw CannotBring::because(
                'Not all came into the copy as it should, so that nothing was written: '.implode('; ', array_slice($wrong, 0, 5)).'.',
            );
        }

        return 'file systems whole, every file as it was';
    }

    private function keep(): string
    {
        $aside = new BlocksAside($this->run);
        $aside->remove();
        $kept = 0;
        foreach ($this->byDisk() as $disk => $copies) {
            $this->withDisk($disk, false, function (NbdDisk $now) use ($aside, $disk, $copies, &$kept): void {
                $aside->keep($disk, $now->size(), $this->old($now, $copies, $kept));
            });
        }

        return Words::count($kept, 'block');
    }

    /** @return array<string, list<VolumeCopy>> those of a disk in the order in which they lie there */
    private function byDisk(): array
    {
        $disks = [];
        foreach ($this->copies as $copy) {
            $disks[$copy->disk][] = $copy;
        }
        foreach ($disks as &$copies) {
            usort($copies, fn (VolumeCopy $a, VolumeCopy $b): int => $a->place->from <=> $b->place->from);
        }

        return $disks;
    }

    /**
     * @param  list<VolumeCopy>  $copies
     * @return iterable<int, string>
     */
    private function old(NbdDisk $now, array $copies, int &$kept): iterable
    {
        $last = -1;
        foreach ($copies as $copy) {
            foreach ($copy->differences($now, $this->tell(...)) as $number => [$old]) {
                if ($number > $last) {
                    yield $number => $old;
                    $kept++;
                    $last = $number; // two volumes may share a block
                }
            }
        }
    }

    private function write(): string
    {
        $this->remember(begun: true, kept: true);
        $bytes = 0;
        foreach ($this->copies as $copy) {
            $this->withDisk($copy->disk, true, function (NbdDisk $to) use ($copy, &$bytes): void {
                foreach ($copy->differences($to, $this->tell(...)) as $number => [, $new]) {
                    $to->write($number * Blocks::BYTES, $new);
                    $bytes += strlen($new);
                }
            });
        }
        $this->remember(bytes: $bytes);

        return Words::size($bytes).' written';
    }

    private function readAgain(): int
    {
        $blocks = 0;
        foreach ($this->copies as $copy) {
            $this->withDisk($copy->disk, false, function (NbdDisk $now) use ($copy, &$blocks): void {
                foreach ($copy->differences($now, $this->tell(...)) as $number => $difference) {
                    throw CannotBring::because("The disk {$copy->disk} is not what it should be when it is read again, at block $number.");
                }
                $blocks += Blocks::of($copy->place->size());
            });
        }
        foreach (array_keys($this->byDisk()) as $disk) {
            $this->hypervisor->mark($this->order->machine, $disk, WayAtHypervisor::markOf($this->run));
        }
        $this->remember(placed: true);

        return $blocks;
    }

    private function finish(RunLedger $ledger, int $blocks): void
    {
        $leftOut = array_merge(...array_map(fn (FilesIntoVolume $files): array => $files->leftOut, array_values($this->files)));
        $outcome = [
            'kind' => 'machine',
            'way' => IntoOrder::WAY,
            'on' => $this->order->on,
            'machine' => $this->order->machine,
            'disks' => [],
            'touched' => array_keys($this->byDisk()),
            'files' => $this->sum('files'),
            'content' => $this->sum('bytes'),
            'left_out' => LeftOut::kept($leftOut),
            'missing' => 0,
            'checks' => CheckLine::kept([
                CheckLine::of(
                    'every file by digest, owner, mode, time and attributes',
                    true,
                    Words::count(array_sum(array_map(fn (FilesIntoVolume $one): int => $one->count(), $this->files)), 'thing'),
                ),
                CheckLine::of('the file systems are whole', true, implode(', ', array_keys($this->copies))),
                CheckLine::of('every block of them, read again at the hypervisor', true, Words::count($blocks, 'block').' of 64 KiB'),
            ]),
            'right' => true,
        ] + ($this->run->refresh()->outcome ?? []);
        $this->run->update([
            'state' => 'done', 'outcome' => $outcome, 'ended_at' => now(), 'files_done' => $outcome['files'],
            'set_aside_until' => now()->addDays(SetAsides::DAYS),
        ]);
        (new MachineProof($this->run->refresh(), $this->order->sentence))->write('files in a machine', [
            'hypervisor' => $this->order->on,
            'machine' => $this->order->machine,
            'files' => $outcome['files'],
            'left_out' => $outcome['left_out'],
        ], $outcome);
        $files = Words::count($outcome['files'], 'file');
        $ledger->tell("Run {$this->run->id} ended: $files in {$this->order->machine}, all right.", 'answer');
    }

    /**
     * @template T
     *
     * @param  Closure(NbdDisk): T  $work
     * @return T
     */
    private function withDisk(string $disk, bool $toWrite, Closure $work): mixed
    {
        return NbdDisk::with($this->hypervisor, $this->order->machine, $disk, $toWrite, $work);
    }

    private function tell(int $bytes): void
    {
        $this->progress->advanced(0, 0);
    }
}
