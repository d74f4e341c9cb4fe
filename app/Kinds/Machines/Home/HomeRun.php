<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Home;

use App\Kinds\Machines\Names\LeadNames;
use App\Kinds\Machines\Names\LedName;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Run\CarriedRun;
use App\Kinds\Machines\Run\KeepsOutcome;
use App\Kinds\Machines\Run\MachineLock;
use App\Kinds\Machines\Run\MachineProof;
use App\Kinds\Machines\Run\PlacementRun;
use App\Kinds\Machines\Run\ShutDown;
use App\Kinds\Machines\Standing\Following;
use App\Kinds\Machines\Standing\FollowStep;
use App\Models\Run;
use App\Runs\RunLedger;
use App\Runs\RunProgress;
use App\Runs\RunRefusal;
use App\Runs\SetAsides;
use App\Sets\CannotRegister;
use App\Sets\Points;
use App\Sets\Protection;
use App\Sets\SetOutline;
use App\Words;
use Closure;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Proof\CheckLine;

/**
 * Takes a machine that stands in home: most of it comes while it runs, and what came since in the short time in which it is off. What is
 * brought home is brought by runs of their own. One that was killed is carried out again, and what was done stays.
 */
final class HomeRun
{
    use KeepsOutcome;

    private const STEPS = [
        'lock the machine', 'bring its newest set home', 'shut it down where it stands in', 'make a set of what came since',
        'write that over at home, and start it', 'have sets made of it there', 'lead its names there',
    ];

    private Run $run;

    private HomeOrder $order;

    private Substitute $substitute;

    /** Where it stands in. */
    private Hypervisor $hypervisor;

    private RunProgress $progress;

    /** The run that brings something home now, and bytes of it that were told. */
    private ?int $child = null;

    private int $told = 0;

    /** @param  (Closure(string): void)|null  $also  told how far it is */
    public function __construct(private readonly ?Closure $also = null)
    {
    }

    public function carryOut(Run $run): void
    {
        $this->run = $run;
        $this->order = HomeOrder::fromArray($run->plan);
        $ledger = new RunLedger($run);
        CarriedRun::carry($ledger, self::STEPS, fn () => $this->begin($ledger), $this->whatWasDone(...));
    }

    private function begin(RunLedger $ledger): void
    {
        RunRefusal::check($this->run);
        $this->substitute = $this->order->substitute();
        [$machine, $on] = [$this->substitute->machine, $this->order->from];
        $this->progress = new RunProgress($this->run);
        $ledger->step(0, fn (): string => MachineLock::take($machine, $on));
        try {
            $this->hypervisor = $this->substitute->hypervisor->open();
            $ledger->step(1, fn (): string => $this->bringNewest());
            $ledger->step(2, fn (): string => $this->shutDown());
            $ledger->step(3, fn (): string => $this->makeLast());
            $ledger->step(4, fn (): string => $this->writeLast());
            $ledger->step(5, fn (): string => $this->arrive());
            $ledger->step(6, fn (): string => $this->leadNames());
            $this->finish($ledger);
        } finally {
            MachineLock::free($machine, $on);
            $this->substitute->hypervisor->lookIfItAnswers();
            $this->order->home()->lookIfItAnswers();
        }
    }

    private function bringNewest(): string
    {
        if ($this->recalled('shut_down') !== null) {
            return 'brought before';
        }
        $points = new Points($this->run->workload);
        $newest = FollowStep::newest($points) ?? throw CannotBring::because("No set of {$this->run->workload->name} can be used now.");
        $run = $this->brought('brought_by', $points, $newest, false);

        return "{$newest->name}, by run {$run->id}: ".Words::size((int) ($run->outcome['bytes'] ?? 0)).' written, while it ran';
    }

    /** Carried out by a run of its own, which can be gone on with when this one is. */
    private function brought(string $as, Points $points, SetOutline $point, bool $isLast): Run
    {
        $known = Run::query()->find((int) $this->recalled($as));
        // One that is not right is tried anew; what it started is shut down for that.
        $isWrong = $known?->state === 'done' && ($known->outcome['right'] ?? false) !== true;
        $isOther = $isLast && ($known?->set_id !== $point->id || $isWrong);
        if ($known === null || $isOther || ($known->isOver() && $known->state !== 'done')) {
            $seen = $this->order->home()->look();
            $plan = GoHome::plan($points, $point, $this->order, $seen, $isLast);
            $blockers = $plan->blockers();
            $blockers === [] || throw CannotBring::because(implode(' ', $blockers));
            $known = Run::query()->create([
                'workload_id' => $this->run->workload_id,
                'user_id' => $this->run->user_id,
                'set_id' => $point->id,
                'state' => 'queued',
                'plan' => $plan->order->toArray(),
                'is_whole' => false,
            ]);
            $this->remember(...[$as => $known->id]);
            $this->run->update(['bytes_total' => 4 * $plan->planned->sizes()]); // twice, and each is read again
        }
        [$this->child, $this->told] = [$known->id, 0];
        $points->stores->release();
        (new PlacementRun($this->tell(...)))->carryOut($known);
        $how = $known->refresh()->state === 'waiting'
            ? 'waits for cartridges: go on with this one when it is done.'
            : "{$known->state}: {$known->failure}";

        $this->progress->advanced(0, max(0, $known->bytes_total - $this->told));

        return $known->state === 'done' ? $known : throw CannotBring::because("Run {$known->id}, which brings it there, $how");
    }

    private function tell(string $how): void
    {
        $done = (int) Run::query()->whereKey($this->child)->value('bytes_done');
        $this->progress->advanced(0, $done - $this->told);
        $this->told = $done;
        $this->also === null || ($this->also)($how);
    }

    private function shutDown(): string
    {
        $said = $this->recalled('shut_down');
        if (is_string($said) && Run::query()->find((int) $this->recalled('last_by'))?->state === 'done') {
            return $said;
        }
        $how = ShutDown::of($this->hypervisor, $this->substitute->nameThere(), $this->progress);
        // Somebody may have started it again since: then what was made of it is not the last.
        $isAgain = $said !== null && $how === ShutDown::WAS_OFF;
        $isAgain || $this->remember(shut_down: $how, shut_down_at: now()->utc()->format('Y-m-d\TH:i:s\Z'), last_set: null);

        return $how;
    }

    private function makeLast(): string
    {
        $known = $this->recalled('last_set');
        if ($known === null) {
            try {
                $set = Protection::ofPresent($this->run->workload, "before run {$this->run->id} starts it at home");
            } catch (CannotRegister $cannot) {
                throw CannotBring::because("No set of it could be made: {$cannot->getMessage()}");
            }
            $this->remember(last_set: $known = $set->name);
        }

        return (string) $known;
    }

    private function writeLast(): string
    {
        $points = new Points($this->run->workload);
        $last = $points->set((string) $this->recalled('last_set'))
            ?? throw CannotBring::because('The set made last is not known any more.');
        $run = $this->brought('last_by', $points, $last, true);
        ($run->outcome['right'] ?? false) === true || throw CannotBring::because("Not all is right at home, as run {$run->id} says: ".
            implode('; ', array_column(CheckLine::wrong(CheckLine::all($run->outcome['checks'] ?? [])), 'detail')));

        return "run {$run->id}: ".Words::size((int) ($run->outcome['bytes'] ?? 0)).' written';
    }

    private function arrive(): string
    {
        $home = $this->order->home();
        $home->holds($this->run->workload, $this->order->machine);
        $follows = Following::query()->where(['hypervisor_id' => $home->id, 'machine' => $this->order->machine])->whereNull('ended');
        $follows->get()->each(fn (Following $one) => $one->end(Following::STARTED));
        $this->substitute->update(['went_to' => $home->id]);
        $this->substitute->end(Substitute::HOME);

        return "{$this->order->machine} at {$this->order->on}";
    }

    /** What is not right with that is told, and does not take the machine away again. */
    private function leadNames(): string
    {
        $led = LeadNames::turned($this->substitute->ledNames(), $this->order->address);
        $this->remember(led: array_map(fn (LedName $one): array => $one->toArray(), $led), names: CheckLine::kept(LeadNames::go($led)));

        return $led === [] ? 'none was led away' : implode('; ', array_column((array) $this->recalled('names'), 'detail'));
    }

    private function finish(RunLedger $ledger): void
    {
        [$run, $order] = [$this->run->refresh(), $this->order];
        $last = Run::query()->findOrFail((int) $this->recalled('last_by'));
        $first = Run::query()->findOrFail((int) $this->recalled('brought_by'));
        $isOff = $this->hypervisor->machine($this->substitute->nameThere())?->isRunning() !== true;
        $away = "{$this->substitute->machine} at {$order->from}";
        $checks = [
            ...CheckLine::all($last->outcome['checks'] ?? []),
            CheckLine::of('the one that stood in is off', $isOff, $away),
            ...CheckLine::all($this->recalled('names')),
        ];
        $isRight = CheckLine::wrong($checks) === [];
        $outcome = [
            'kind' => 'machine', 'way' => HomeOrder::WAY, 'on' => $order->on, 'machine' => $order->machine,
            'disks' => $last->outcome['disks'] ?? [],
            'bytes' => (int) ($first->outcome['bytes'] ?? 0) + (int) ($last->outcome['bytes'] ?? 0),
            'missing' => 0, 'checks' => CheckLine::kept($checks), 'right' => $isRight, 'boot' => $last->outcome['boot'] ?? null,
            'aside' => $away,
            'off_for_s' => (int) now()->diffInSeconds((string) $this->recalled('shut_down_at'), true),
        ] + ($run->outcome ?? []);
        $run->update([
            'set_id' => $last->set_id, 'set_name' => $last->set_name, 'point_at' => $last->point_at,
            'state' => 'done', 'outcome' => $outcome, 'ended_at' => now(),
            'set_aside_until' => now()->addDays(SetAsides::DAYS),
        ]);
        (new MachineProof($run->refresh(), $order->sentence))->write('a machine', [
            'hypervisor' => $order->on, 'machine' => $order->machine, 'way' => HomeOrder::WAY, 'came_from' => $away,
            'brought_by' => [$first->id, $last->id], 'off_for_seconds' => $outcome['off_for_s'],
        ], $outcome);
        $ledger->tell("Run {$run->id} ended: {$order->machine} is at home at {$order->on}, ".
            ($isRight ? 'all right.' : 'and not all of it is as it should be.'), 'answer');
    }

    private function whatWasDone(): string
    {
        $this->run->refresh();

        return $this->recalled('shut_down') === null
            ? ' What stands in goes on.'
            : ' What stood in is off: go on with this run, or put it back, which starts it again.';
    }
}
