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
use Kaiseki\Core\Metal\ContentKind;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\MetalOrders;
use Kaiseki\Core\Metal\OrderedContent;
use Kaiseki\Core\Metal\Place;
use Kaiseki\Core\Metal\PlannedDisk;
use Kaiseki\Core\Metal\RenewedTree;
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

    /** Microseconds between two looks at what it says. */
    private const LOOK = 200_000;

    private Run $run;

    private RunLedger $ledger;

    private MetalOrder $order;

    private LayoutPlan $plan;

    private Enrolment $enrolment;

    private Exchange $exchange;

    private float $looked = 0.0;

    /** From when on the medium may have begun; before that it waits on. */
    private bool $isOrdered = false;

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

        return $this->isOrdered && ! $this->order->rehearses
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
        $this->exchange = Exchange::of($this->run);
        try {
            $this->work($points);
        } finally {
            $points->stores->release();
            TargetLock::free($lock, '');
            if ($this->isOrdered) {
                $this->enrolment->refresh()->ended_at !== null || $this->enrolment->end('its run is over');
                $this->exchange->keepTold();
            }
        }
    }

    private function work(Points $points): void
    {
        $names = array_map(fn (PlannedDisk $disk): string => $disk->was->name, $this->plan->disks);
        $source = MetalSources::of($points, $points->sets[$this->run->set_id], $this->order->copies);
        $source->only($names);
        $this->ledger->step(1, fn (): string => CarriedRun::attach($this->run, $source->reading()));
        $token = (string) $this->enrolment->token;
        $orders = MetalOrders::of($this->plan, $token, $this->order->rehearses, $this->order->restarts);
        $this->ledger->step(2, fn (): string => $this->give($orders));
        $renews = $this->order->renewsId;
        $maker = new ContentMaker($this->plan, $source, $this->exchange, $token, $this->progress(), $this->wait(...), $renews);
        $this->ledger->step(3, fn (): string => $this->bring($orders, $maker));
        $checks = [];
        $this->ledger->step(4, function () use ($orders, $maker, &$checks): string {
            $this->untilDone();
            $checks = $this->checks($orders, $maker);

            return Words::count(count($checks), 'thing').' compared';
        });
        $isAsked = $this->order->address !== '';
        $wanted = $isAsked ? $source->answers($this->order->answer) : [];
        $this->ledger->step(5, fn (): string => $this->letGo());
        $this->ledger->step(6, function () use ($isAsked, $wanted, &$checks): string {
            $isAsked && $checks[] = $this->answers($wanted);

            return $isAsked ? end($checks)->detail : 'nobody said where it answers';
        });
        $this->finish($checks, $maker, $source);
    }

    private function give(MetalOrders $orders): string
    {
        $this->run->update(['bytes_total' => $this->bytes()]);
        $this->exchange->begin();
        $this->exchange->order($orders->text());
        $this->isOrdered = true;

        return Words::count(substr_count($orders->text(), "\n") - 1, 'order').', signed for this machine';
    }

    /** Bytes of contents, before they are packed. */
    private function bytes(): int
    {
        $parts = fn (Place $one): int => $one->content->kind === ContentKind::Group ? 0 : $one->content->used;

        return (int) array_sum(array_map($parts, $this->plan->places()));
    }

    private function progress(): RunProgress
    {
        $also = $this->also;
        $tell = fn (int $files, int $bytes) => $also === null ? null : $also(number_format($files).' files, '.Words::size($bytes));

        return new RunProgress($this->run, $tell(...));
    }

    private function bring(MetalOrders $orders, ContentMaker $maker): string
    {
        foreach ($orders->contents() as $content) {
            $maker->make($content);
        }

        return Words::count(count($orders->contents()), 'content').', each piece signed';
    }

    /** @throws CannotBring|UnableToRestore if there is nothing to wait for any more */
    private function wait(): void
    {
        usleep(50_000);
        if (microtime(true) - $this->looked < 1.0) {
            return;
        }
        $this->looked = microtime(true);
        foreach ($this->exchange->told() as $told) {
            $told['step'] === 'failed' && throw CannotBring::because("The medium stopped: {$told['what']}.");
        }
        $this->run->refresh()->stop_asked && throw UnableToRestore::stopped();
        $this->run->update(['heartbeat_at' => now()]);
        $this->enrolment->refresh()->isSilent() && throw CannotBring::because(
            'The machine has not been heard of for '.Words::duration(Enrolment::SILENT).': it is off, or its network is cut',
        );
    }

    private function untilDone(): void
    {
        while (array_filter($this->exchange->told(), fn (array $told): bool => $told['step'] === 'done') === []) {
            $this->wait();
            usleep(self::LOOK);
        }
    }

    /** @return list<CheckLine> */
    private function checks(MetalOrders $orders, ContentMaker $maker): array
    {
        if ($this->order->rehearses) {
            return [CheckLine::of('rehearsed', true, 'all contents came over, each piece as it was signed')];
        }
        $checks = [];
        if ($this->order->renewsId) {
            $checks[] = CheckLine::of('the machine id', $maker->isRenewed, $maker->isRenewed
                ? 'left empty: it makes one of its own when it starts'
                : 'there was no '.RenewedTree::ID.' among what was made anew: it has that of the machine that it was, if any');
        }
        foreach ($orders->listings() as $of) {
            $key = $of->place()->key;
            $checks[] = $of->kind === OrderedContent::FILES ? $this->tree($of, $maker, $key) : $this->sum($of, $maker, $key);
        }

        return $checks;
    }

    private function tree(OrderedContent $of, ContentMaker $maker, string $key): CheckLine
    {
        $record = $maker->records[$key];
        $record->compare(...array_map(fn (string $part) => $this->exchange->listing($of, $part), ['entries', 'digests', 'attributes']));

        return CheckLine::of(
            "what lies on $key",
            $record->wrong === 0,
            $record->wrong === 0
                ? Words::count($record->count(), 'name').' with content, owner, mode, time, links and attributes, read from the disk again'
                : Words::count($record->wrong, 'difference').': '.implode('; ', array_slice($record->differences, 0, 5)),
        );
    }

    private function sum(OrderedContent $of, ContentMaker $maker, string $key): CheckLine
    {
        $got = trim((string) stream_get_contents($this->exchange->listing($of, 'sum')));
        $isRight = hash_equals($maker->sums[$key], $got);

        return CheckLine::of(
            $of->kind === OrderedContent::HEAD ? "what $key says of its volume group" : "every byte of $key",
            $isRight,
            $isRight ? "SHA-256 $got, read from the disk again" : "SHA-256 $got, and {$maker->sums[$key]} was sent",
        );
    }

    private function letGo(): string
    {
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
    private function finish(array $checks, ContentMaker $maker, MetalSource $source): void
    {
        $isRight = CheckLine::wrong($checks) === [];
        $this->run->update(['state' => 'done', 'ended_at' => now(), 'outcome' => [
            'disks' => array_map(fn (PlannedDisk $disk): array => [
                'disk' => $disk->was->name, 'onto' => $disk->onto->name, 'serial' => $disk->onto->serial, 'bytes' => $disk->onto->bytes,
            ], $this->plan->disks),
            'checks' => CheckLine::kept($checks),
            'left_out' => $maker->leftOut,
            'cautions' => [...$this->plan->cautions, ...$source->cautions()],
            'next' => $this->order->rehearses ? [] : $source->next(),
            'told' => $this->exchange->told(),
            'bytes' => (int) $this->run->refresh()->bytes_done,
            'rehearsed' => $this->order->rehearses,
            'right' => $isRight,
        ]]);
        MetalProof::write($this->run, $this->order);
        $this->ledger->tell("Run {$this->run->id} ended: ".($isRight ? 'all right.' : 'not all right.'), 'answer');
    }
}
