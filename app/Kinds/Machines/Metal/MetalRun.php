<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Run\CarriedRun;
use App\Kinds\Machines\Run\WhoAnswers;
use App\Models\Run;
use App\Runs\RunLedger;
use App\Runs\RunProgress;
use App\Runs\RunRefusal;
use App\Runs\TargetLock;
use App\Sets\Points;
use App\Words;
use Closure;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\PlannedDisk;
use Kaiseki\Core\Proof\CheckLine;

/**
 * Brings a machine onto the disks of another, on which a recovery medium was started: gives it orders and contents, and compares what it
 * reads back. What a run that was killed had written stands half on the disks: it says so, and one that is ordered again begins anew.
 */
final class MetalRun
{
    public const STEPS = [
        'lock the target', 'attach the media', 'give the orders', 'bring the contents', 'read back', 'let it go', 'ask who it is',
    ];

    /** Seconds for which a machine that was restarted is waited for. */
    private const PATIENCE = 300;

    private Run $run;

    private RunLedger $ledger;

    private MetalOrder $order;

    private LayoutPlan $plan;

    private Enrolment $enrolment;

    private ?MediumWork $work = null;

    /** @param  (Closure(string): void)|null  $also  told how far it is */
    public function __construct(private readonly ?Closure $also = null)
    {
    }

    public function carryOut(Run $run): void
    {
        $this->run = $run;
        $this->ledger = new RunLedger($run);
        CarriedRun::carry($this->ledger, self::STEPS, function () use ($run): void {
            $this->order = MetalOrder::fromArray($run->plan);
            $this->plan = $this->order->plan();
            $this->carry();
        }, fn (): string => $this->halfDone());
    }

    private function halfDone(): string
    {
        $disks = implode(', ', array_map(fn (PlannedDisk $disk): string => $disk->onto->name, $this->plan->disks));

        return $this->work?->hasBegun() && ! $this->order->rehearses
            ? " What stands on $disks of that machine is half of it, and will not start: start the medium there again, with a new code."
            : ' Nothing was written.';
    }

    private function carry(): void
    {
        RunRefusal::check($this->run);
        $this->enrolment = Enrolment::query()->find($this->order->enrolment) ?? throw CannotBring::because('That machine is not known.');
        $this->enrolment->ended_at === null || throw CannotBring::because("The enrolment {$this->enrolment->state()}.");
        $lock = "enrolment-{$this->enrolment->id}";
        $this->ledger->step(0, function () use ($lock): string {
            TargetLock::take($lock, '', "the machine of enrolment {$this->enrolment->id}");
            $this->enrolment->update(['run_id' => $this->run->id]);

            return "the machine of enrolment {$this->enrolment->id}, {$this->enrolment->address}";
        });
        $points = new Points($this->run->workload);
        $waits = false;
        try {
            $this->work($points);
            $waits = $this->order->follow !== null;
        } finally {
            $points->stores->release();
            TargetLock::free($lock, '');
            $this->work?->hasBegun() && ! $waits && $this->work->end();
        }
    }

    private function work(Points $points): void
    {
        $names = array_map(fn (PlannedDisk $disk): string => $disk->was->name, $this->plan->disks);
        $source = MetalSources::of($points, $points->sets[$this->run->set_id], $this->order->copies);
        $source->only($names);
        $this->ledger->step(1, fn (): string => CarriedRun::attach($this->run, $source->reading()));
        $work = $this->work = new MediumWork($this->run, $this->enrolment, $this->order, $source, $this->progress());
        $this->ledger->step(2, fn (): string => $work->give());
        $this->ledger->step(3, fn (): string => $work->bring());
        $checks = [];
        $this->ledger->step(4, function () use ($work, &$checks): string {
            $checks = $work->readBack();

            return Words::count(count($checks), 'thing').' compared';
        });
        $isAsked = $this->order->address !== '' && $this->order->follow === null;
        $wanted = $isAsked ? $source->answers($this->order->answer) : [];
        $this->ledger->step(5, fn (): string => $this->letGo($work));
        $this->ledger->step(6, function () use ($isAsked, $wanted, &$checks): string {
            $isAsked && $checks[] = $this->answers($wanted);

            return $isAsked ? end($checks)->detail : 'nobody said where it answers';
        });
        $this->finish($checks, $work, $source);
    }

    private function progress(): RunProgress
    {
        $also = $this->also;
        $tell = fn (int $files, int $bytes) => $also === null ? null : $also(number_format($files).' files, '.Words::size($bytes));

        return new RunProgress($this->run, $tell(...));
    }

    private function letGo(MediumWork $work): string
    {
        if ($this->order->follow !== null) {
            $work->rest();

            return "it waits: every {$this->order->follow} min it is looked for a newer point";
        }
        $this->enrolment->refresh()->end('its run is over');

        return 'its token is worth nothing any more; it '.($this->order->restarts && ! $this->order->rehearses ? 'restarts' : 'goes off');
    }

    /** @param  array<string, string>  $wanted */
    private function answers(array $wanted): CheckLine
    {
        $began = microtime(true);
        while (($after = microtime(true) - $began) < self::PATIENCE) {
            $said = WhoAnswers::ask("http://{$this->order->address}{$this->order->answer?->asked}");
            if ($said !== null) {
                [$result, $detail] = WhoAnswers::judge($said, $wanted, $after);

                return new CheckLine('it answers, as itself', $wanted === [] ? CheckLine::NOT_SEEN : $result, $detail);
            }
            $this->run->refresh()->stop_asked && throw UnableToRestore::stopped();
            $this->run->update(['heartbeat_at' => now()]);
            sleep(1);
        }
        $detail = "nothing answered at {$this->order->address} in ".Words::duration(self::PATIENCE);

        return CheckLine::of('it answers, as itself', false, $detail);
    }

    /** @param  list<CheckLine>  $checks */
    private function finish(array $checks, MediumWork $work, MetalSource $source): void
    {
        $isRight = CheckLine::wrong($checks) === [];
        $this->run->update(['state' => 'done', 'ended_at' => now(), 'outcome' => $work->outcome() + [
            'checks' => CheckLine::kept($checks),
            'cautions' => [...$this->plan->cautions, ...$source->cautions()],
            'next' => $this->order->rehearses || $this->order->follow !== null ? [] : $source->next(),
            'rehearsed' => $this->order->rehearses,
            'right' => $isRight,
        ]]);
        MetalProof::write($this->run, $this->order);
        $isAnswer = ! $this->order->rehearses && $this->order->follow === null;
        $this->ledger->tell("Run {$this->run->id} ended: ".($isRight ? 'all right.' : 'not all right.'), $isAnswer ? 'answer' : 'open');
    }
}
