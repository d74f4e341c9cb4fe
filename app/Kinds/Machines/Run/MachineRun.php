<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Instance;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\ImagePlan;
use App\Kinds\Machines\Order\MachineOrder;
use App\Kinds\Machines\Order\PlannedDisks;
use App\Kinds\Machines\Order\SettingsSheet;
use App\Models\BackupSet;
use App\Models\Run;
use App\Runs\RunLedger;
use App\Runs\RunProgress;
use App\Runs\RunRefusal;
use App\Runs\TargetLock;
use App\Sets\Points;
use App\Words;
use Closure;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Files\Target;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Machine\Blocks;
use Kaiseki\Core\Proof\CheckLine;
use Kaiseki\Core\Proof\DigestLine;
use Symfony\Component\Filesystem\Filesystem;

/**
 * Carries out the writing of images. Everything is staged, checked, and only then given its name; a run that was killed begins anew,
 * since nothing of it is in place before all of it is.
 */
final class MachineRun
{
    public const STEPS = ['lock the target', 'look at the target', 'attach the media', 'write and check the images', 'put in place'];

    private Run $run;

    private RunLedger $ledger;

    private MachineOrder $order;

    private ImagePlan $plan;

    /** @var array<string, ImageWriting> by disk */
    private array $written = [];

    /** @param  (Closure(string): void)|null  $also  told how far it is */
    public function __construct(private readonly ?Closure $also = null)
    {
    }

    public function carryOut(Run $run): void
    {
        $this->run = $run;
        $this->ledger = new RunLedger($run);
        CarriedRun::carry($this->ledger, self::STEPS, function () use ($run): void {
            $this->order = MachineOrder::fromArray($run->plan);
            $this->carry();
        }, fn (): string => ' Nothing was put in place.');
    }

    private function carry(): void
    {
        RunRefusal::check($this->run);
        [$folder, $host] = [$this->order->folder, $this->order->host];
        $this->ledger->step(0, function () use ($folder, $host): string {
            TargetLock::take($folder, $host);

            return $folder;
        });
        $points = new Points($this->run->workload);
        $work = RestoreOrder::stagingOf((string) $this->run->id);
        $here = Instance::folder('tmp')."/machine-run-{$this->run->id}";
        try {
            $this->plan = new ImagePlan($points, $points->sets[$this->run->set_id], $this->order);
            $target = $this->order->open();
            $this->ledger->step(1, fn (): string => $this->lookAtTarget($target, $work));
            $this->ledger->step(2, fn (): string => CarriedRun::attach($this->run, $this->plan->planned->reading()));
            (new Filesystem)->remove($here);
            (new Filesystem)->mkdir($here, 0700);
            $target->makeFolder($work);
            $this->ledger->step(3, fn (): string => $this->write($target, $work, $here));
            $this->ledger->step(4, fn (): string => $this->place($target, $work));
            $this->finish();
        } finally {
            (new Filesystem)->remove($here);
            $points->stores->release();
            $this->clear($work);
            TargetLock::free($folder, $host);
        }
    }

    private function clear(string $work): void
    {
        try {
            $this->order->look()->status($work) === null || $this->order->open()->removeTree($work);
        } catch (UnableToRestore) {
            return; // the host does not answer now: what lies there is removed with other staged things
        }
    }

    private function lookAtTarget(Target $target, string $work): string
    {
        $target->removeTree($work); // of an attempt that was killed
        $blockers = $this->plan->blockers();
        if ($blockers !== []) {
            throw CannotBring::because(implode(' ', $blockers));
        }
        $bytes = $this->plan->planned->bytes();
        $this->run->update([
            'files_total' => count($bytes),
            // Written, and read again.
            'bytes_total' => 2 * $this->plan->planned->sizes(),
        ]);

        return 'up to '.Words::size(array_sum($bytes)).' are needed, '.Words::size($target->freeBytes()).' are free';
    }

    private function write(Target $target, string $work, string $here): string
    {
        $also = $this->also;
        $tell = $also === null ? null : fn (int $files, int $bytes) => $also(Words::size(intdiv($bytes, 2)));
        $progress = new RunProgress($this->run, $tell);
        $missing = 0;
        foreach ($this->plan->disks as $name => $disk) {
            $writing = new ImageWriting($disk, $this->order, $target, "$work/{$this->order->fileOf($name)}", $here, $progress);
            $writing->write();
            $progress->advanced(1, 0);
            $this->written[$name] = $writing;
            $missing += $writing->copy->missingCount;
            if ($writing->check->wrongCount > 0) {
                throw CannotBring::because("The image of $name is not what it should be when it is read again, at ".
                    $writing->check->wrongAreas()->words().'.');
            }
        }
        if ($missing > 0 && ! $this->order->part) {
            throw CannotBring::because(Words::count($missing, 'block').' could not be read from any copy: '.$this->whyMissing().
                '. The rest can be had in part.');
        }
        $progress->tell();

        return Words::count(count($this->written), 'image').', every block of them read again';
    }

    private function whyMissing(): string
    {
        $why = [];
        foreach ($this->written as $name => $writing) {
            if ($writing->copy->missingCount > 0) {
                $why[] = PlannedDisks::whyMissing($this->plan->disks[$name], $writing->copy->reading);
            }
        }

        return implode('; ', $why);
    }

    private function place(Target $target, string $work): string
    {
        $lines = '';
        foreach ($this->written as $name => $writing) {
            $lines .= DigestLine::of($writing->digest, $this->order->digestedFileOf($name));
        }
        $sheet = SettingsSheet::of(BackupSet::query()->findOrFail($this->run->set_id), $this->order);
        foreach ([$this->order->digests() => $lines, $this->order->sheet() => $sheet] as $file => $content) {
            $target->putFile("$work/$file", $content, 0600, 0, 0, time() * 1_000_000_000, false);
        }
        foreach ($target->settle() as $failure) {
            throw $failure;
        }
        $target->sync();
        $placed = [];
        $written = [];
        foreach ($this->order->filesOf(...array_keys($this->written)) as $file) {
            if (! $target->rename("$work/$file", $file)) {
                array_map($target->remove(...), $placed);
                throw UnableToRestore::targetUnfit($this->order->folder, "something has the name $file there now");
            }
            $placed[] = $file;
            $status = $target->status($file);
            $written[] = ['file' => $file, 'size' => $status?->size, 'mtime' => $status?->mtime];
        }
        $this->run->update(['outcome' => ['written' => $written] + ($this->run->refresh()->outcome ?? [])]);

        return implode(', ', $placed);
    }

    private function finish(): void
    {
        $disks = [];
        foreach ($this->written as $name => $writing) {
            $disks[] = [
                'disk' => $name,
                'file' => $this->order->fileOf($name),
                'size' => $this->plan->disks[$name]->plan()->size(),
                'bytes' => $writing->bytes,
                'data' => $writing->copy->bytes,
                'blocks' => $writing->check->blocks,
                'bridged' => $writing->copy->reading->bridged,
                'missing' => $writing->copy->missingCount,
                'missing_at' => array_map(fn (int $number): int => $number * Blocks::BYTES, $writing->copy->missing),
                'blake2b_256' => bin2hex($writing->digest),
                'read' => $this->plan->disks[$name]->stores(),
            ];
        }
        $missing = array_sum(array_column($disks, 'missing'));
        $outcome = [
            'kind' => 'machine',
            'disks' => $disks,
            'format' => $this->order->format->value,
            'bytes' => array_sum(array_column($disks, 'bytes')),
            'missing' => $missing,
            'written' => $this->run->refresh()->outcome['written'] ?? [],
            'checks' => CheckLine::kept(self::checks($disks, $missing)),
            'right' => $missing === 0,
        ];
        $this->run->update(['state' => 'done', 'outcome' => $outcome, 'ended_at' => now(), 'files_done' => count($disks)]);
        (new MachineProof($this->run->refresh(), $this->order->sentence))->write('images', [
            'target' => mb_scrub($this->order->folder),
            'host' => $this->order->host === '' ? null : $this->order->host,
            'format' => $this->order->format->value,
        ], $outcome);
        $this->ledger->tell(
            sprintf(
                'Run %d ended: %s written, %s.',
                $this->run->id,
                Words::count(count($disks), 'image'),
                $missing === 0 ? 'all right' : Words::count($missing, 'block').' left as zeros',
            ),
            'answer',
        );
    }

    /**
     * @param  list<array<string, mixed>>  $disks
     * @return list<CheckLine>
     */
    private static function checks(array $disks, int $missing): array
    {
        $blocks = array_sum(array_column($disks, 'blocks'));

        return [
            CheckLine::of(
                'every block of every disk, by digest, read again from what was written',
                true,
                Words::count($blocks, 'block').' of 64 KiB',
            ),
            CheckLine::of(
                'every block was to be had',
                $missing === 0,
                $missing === 0 ? 'none is missing' : Words::count($missing, 'block').' are missing, and are zeros',
            ),
        ];
    }

    /**
     * Removes what a run wrote, but nothing that has another size or time since.
     *
     * @throws UnableToRestore
     */
    public static function putBack(Run $run): PutBackDone
    {
        $order = MachineOrder::fromArray($run->plan);
        TargetLock::take($order->folder, $order->host);
        try {
            $target = $order->open();
            $done = new PutBackDone;
            foreach ($run->outcome['written'] ?? [] as $written) {
                $file = (string) $written['file'];
                $status = $target->status($file);
                if ($status === null) {
                    continue;
                }
                if ($status->size !== $written['size'] || $status->mtime !== $written['mtime']) {
                    $done->leave($file, 'it was changed since');
                } elseif ($target->remove($file)) {
                    $done->removed[] = $file;
                }
            }

            return $done;
        } finally {
            TargetLock::free($order->folder, $order->host);
        }
    }
}
