<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Models\Run;
use App\Runs\RunFiles;
use App\Runs\RunLedger;
use App\Runs\RunProgress;
use App\Runs\RunRefusal;
use App\Runs\TargetLock;
use App\Sets\Points;
use App\Words;
use Closure;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Files\PermissionRun;
use Kaiseki\Core\Files\UnableToRestore;
use Throwable;

/**
 * Carries a run out that gives what stands in its target the permissions of a point. It needs the catalog alone: no archive, no store and
 * no cartridge. After a crash it is simply carried out again.
 */
final class PermissionCarrier
{
    public const STEPS = ['lock the target', 'look at the target', 'make a set of what is there', 'give permissions', 'look again'];

    /** @param  (Closure(int, int): void)|null  $also  told how many things were dealt with so far, and 0 */
    public function __construct(private readonly ?Closure $also = null)
    {
    }

    public function carryOut(Run $run, ?PlannedOrder $planned): void
    {
        $ledger = new RunLedger($run);
        if (! $ledger->claim(self::STEPS)) {
            return;
        }
        clearstatcache(true);
        try {
            $this->carry($run, $ledger, $planned?->named((string) $run->id));
        } catch (UnableToRestore $failure) {
            $this->fail($ledger, $failure->getMessage(), $run->refresh()->stop_asked ? 'stopped' : 'failed');
        } catch (Throwable $bug) {
            $this->fail($ledger, 'Something went wrong that should not have: '.$bug->getMessage(), 'failed');
            throw $bug;
        }
    }

    private function carry(Run $run, RunLedger $ledger, ?PlannedOrder $planned): void
    {
        $plan = RestorePlan::fromArray($run->plan);
        RunRefusal::check($run);
        $ledger->step(0, function () use ($plan): string {
            TargetLock::take($plan->target, $plan->host);

            return $plan->target;
        });
        try {
            $order = ($planned ?? PlannedOrder::of($plan, $run->set, new Points($run->workload), (string) $run->id))->order;
            $journal = Journal::open(RunFiles::journal($run));
            $target = $plan->look()->status('') === null ? throw UnableToRestore::targetMissing($plan->target) : $plan->open();
            $run->update(['files_total' => count($order->items), 'bytes_total' => 0]);
            $ledger->step(1, function () use ($plan, $order, $target, $journal): string {
                BeforeWriting::refuseIfChanged($plan, $order, $target, $journal);

                return $target->owners()->mayGiveAway ? 'owners can be given too' : 'owners stay: this account cannot give files away';
            });
            $ledger->step(2, fn (): string => BeforeWriting::set($run, $plan));
            $work = new PermissionRun($order, $target, $journal);
            $progress = new RunProgress($run, $this->also);
            $ledger->step(3, function () use ($work, $progress): string {
                $work->give($progress);
                $progress->tell();

                return sprintf('%s were given others, %s had the same', number_format($work->given), number_format($work->same));
            });
            $proof = new ProofWriter($run, $plan);
            $ledger->step(4, function () use ($work, $proof): string {
                $work->verify($proof->permissions(...));

                return count($work->differences).' are not as they should be';
            });
            $this->finish($run, $ledger, $work, $proof);
        } finally {
            TargetLock::free($plan->target, $plan->host);
        }
    }

    private function finish(Run $run, RunLedger $ledger, PermissionRun $work, ProofWriter $proof): void
    {
        $outcome = RunOutcome::ofPermissions($run, $work);
        $run->update(['state' => 'done', 'outcome' => $outcome, 'ended_at' => now()]);
        $proof->write($outcome);
        $ledger->tell(
            sprintf(
                'Run %d ended: %s got the permissions of then, %s.',
                $run->id,
                Words::count($work->given, 'thing'),
                $outcome['right'] ? 'all right' : 'not all right',
            ),
            'answer',
        );
    }

    private function fail(RunLedger $ledger, string $because, string $state): void
    {
        $given = 0;
        foreach (Journal::read(RunFiles::journal($ledger->run)) as $line) {
            $given += $line[0] === Journal::PERMITTED ? 1 : 0;
        }
        $ledger->fail(
            $because,
            $state,
            $given === 0
                ? ' Nothing that is there was touched.'
                : " $given things had got other permissions before that; how they were is kept, and they can be put back.",
        );
    }
}
