<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Run;

use App\Kinds\Machines\Order\CannotBring;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Runs\RunFiles;
use App\Runs\RunLedger;
use App\Runs\RunProgress;
use App\Runs\RunRefusal;
use App\Runs\SetAsides;
use App\Runs\TargetLock;
use App\Sets\Points;
use App\Trees\Run\LongList;
use App\Trees\Run\ProofWriter;
use App\Trees\Run\RestorePlan;
use App\Trees\Run\RunOutcome;
use App\Words;
use Closure;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Files\LeftOut;
use Kaiseki\Core\Files\Placement;
use Kaiseki\Core\Files\PutBack;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Files\Staging;
use Kaiseki\Core\Files\Target;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Files\Verification;
use Kaiseki\Core\Proof\CheckLine;

/** Brings files out of a machine's disks into a folder of a host, step by step; after a crash it goes on from its journal. */
final class MachineFilesRun
{
    public const STEPS = ['lock the target', 'look into the disks', 'look at the target', 'stage', 'put in place', 'check in place'];

    private Run $run;

    private RunLedger $ledger;

    private RestorePlan $plan;

    private FilesOfMachine $files;

    /** @var list<LeftOut> */
    private array $leftOut = [];

    /** @param  (Closure(string): void)|null  $also  told how far it is */
    public function __construct(private readonly ?Closure $also = null)
    {
    }

    public function carryOut(Run $run): void
    {
        $this->run = $run;
        $this->ledger = new RunLedger($run);
        CarriedRun::carry($this->ledger, self::STEPS, function () use ($run): void {
            $this->plan = RestorePlan::fromArray($run->plan);
            $this->carry();
        }, fn (): string => Journal::holds(RunFiles::journal($run), Journal::PLACED)
            ? ' Some things were put in place before that: put it back, or go on.'
            : ' Nothing was put in place.');
    }

    private function carry(): void
    {
        RunRefusal::check($this->run);
        $plan = $this->plan;
        $this->ledger->step(0, function () use ($plan): string {
            TargetLock::take($plan->target, $plan->host);

            return $plan->target;
        });
        $points = new Points($this->run->workload);
        try {
            $this->ledger->step(1, fn (): string => $this->lookIn($points));
            $journal = Journal::open(RunFiles::journal($this->run));
            $order = $this->order();
            $target = $plan->openFor($journal);
            $this->ledger->step(2, fn (): string => $this->room($target));
            $also = $this->also;
            $tell = $also === null ? null : fn (int $files, int $bytes) => $also(number_format($files).' files, '.Words::size($bytes));
            $progress = new RunProgress($this->run, $tell);
            $staging = new Staging($order, $target, $this->files, $progress);
            $this->ledger->step(3, fn (): string => $this->stage($staging, $journal, $progress));
            $placement = new Placement($order, $target, $journal);
            $this->ledger->step(4, function () use ($placement, $journal): string {
                Journal::holds($journal->path, Journal::FINISHED) || $placement->place();

                return $placement->replaced().' set aside or renamed, '.$placement->beside().' put beside something';
            });
            $verification = new Verification;
            $proof = new ProofWriter($this->run, $plan);
            $this->ledger->step(5, function () use ($verification, $order, $target, $placement, $proof, $progress): string {
                $verification->run($order, $target, $placement, $this->leftOut, $proof->file(...), $progress);

                return number_format($verification->files).' files read again from the target';
            });
            $this->finish($verification, $placement, $proof);
        } finally {
            $points->stores->release();
            TargetLock::free($plan->target, $plan->host);
        }
    }

    private function lookIn(Points $points): string
    {
        $this->files = FilesOfMachine::read($points, $points->sets[$this->run->set_id], $this->plan->paths, $this->plan->copies);
        $this->run->update(['files_total' => count($this->files->items), 'bytes_total' => $this->files->bytes]);

        return Words::count(count($this->files->items), 'thing').
            ', '.
            Words::size($this->files->bytes).
            ', every block of them right by its digest';
    }

    private function order(): RestoreOrder
    {
        return new RestoreOrder(
            (string) $this->run->id,
            $this->files->items,
            $this->plan->target,
            $this->plan->conflict,
            $this->plan->date,
            $this->plan->keepSetId,
        );
    }

    private function room(Target $target): string
    {
        if ($target->freeBytes() < $this->files->bytes) {
            throw UnableToRestore::targetUnfit(
                $target->label(),
                'there is room for '.Words::size($target->freeBytes()).', and '.Words::size($this->files->bytes).' are needed',
            );
        }

        return Words::size($target->freeBytes()).' free, '.Words::size($this->files->bytes).' needed';
    }

    private function stage(Staging $staging, Journal $journal, RunProgress $progress): string
    {
        if (Journal::holds($journal->path, Journal::STAGED)) {
            return 'was staged before the interruption';
        }
        $staging->fill();
        $progress->tell();
        $this->leftOut = $staging->leftOut();
        $journal->add(Journal::STAGED);

        return Words::count($this->run->refresh()->files_done, 'file').', each right by its digest';
    }

    private function finish(Verification $verification, Placement $placement, ProofWriter $proof): void
    {
        $run = $this->run;
        foreach ($placement->kept() as $path => $because) {
            $this->leftOut[] = new LeftOut((string) $path, $because, false);
        }
        $checks = RunOutcome::checks($this->leftOut, count($verification->differences), 'on the disk');
        $outcome = [
            'entries' => $verification->files + $verification->folders + $verification->others,
            'files' => $verification->files,
            'bytes' => $verification->bytes,
            'placed_beside' => $placement->beside(),
            'replaced' => $placement->replaced(),
            'set_aside' => $placement->setAside(),
            'kept' => count($placement->kept()),
            ...LongList::keep($run, LongList::LEFT_OUT, RunOutcome::rows($this->leftOut)),
            ...LongList::keep($run, LongList::DIFFERENCES, RunOutcome::rows($verification->differences)),
            ...LongList::keep($run, LongList::FROM_OTHER_POINTS, []),
            'commands' => [],
            'read' => [],
            'damaged' => array_values($this->files->failures),
            'losses' => $this->files->losses,
            'checks' => CheckLine::kept($checks),
            'right' => CheckLine::wrong($checks) === [],
        ];
        $run->update([
            'state' => 'done',
            'outcome' => $outcome,
            'ended_at' => now(),
            'set_aside_until' => $placement->setAside() > 0 ? now()->addDays(SetAsides::DAYS) : null,
        ]);
        $proof->write($outcome);
        $words = Words::count($verification->files, 'file');
        $this->ledger->tell("Run {$run->id} ended: $words came back, ".($outcome['right'] ? 'all right.' : 'not all right.'), 'answer');
    }

    /** @throws UnableToRestore|CannotBring */
    public function putBack(Run $run, bool $alsoChanged): PutBack
    {
        $this->run = $run;
        $this->plan = RestorePlan::fromArray($run->plan);
        if (! (new RunLedger($run))->giveUp()) {
            throw UnableToRestore::targetUnfit($this->plan->target, "run {$run->id} is still at work there");
        }
        TargetLock::take($this->plan->target, $this->plan->host);
        try {
            $this->lookIn(new Points($run->workload));
            $putBack = new PutBack($this->order(), $this->plan->open(), $alsoChanged);
            $putBack->run(RunFiles::journal($run));
            $run->update(['put_back_at' => now(), 'set_aside_until' => null]);
            $told = "Run {$run->id} was put back: {$putBack->removed} removed, {$putBack->returned} returned.";
            TrailEntry::add($told, $run->request, null, $run);

            return $putBack;
        } finally {
            TargetLock::free($this->plan->target, $this->plan->host);
        }
    }
}
