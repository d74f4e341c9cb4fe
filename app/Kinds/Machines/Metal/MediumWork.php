<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Order\CannotBring;
use App\Models\Run;
use App\Runs\RunProgress;
use App\Words;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\MetalOrders;
use Kaiseki\Core\Metal\NamedCards;
use Kaiseki\Core\Metal\OrderedContent;
use Kaiseki\Core\Metal\PlannedDisk;
use Kaiseki\Core\Metal\RenewedTree;
use Kaiseki\Core\Proof\CheckLine;

/** What a run has a medium do that enrolled itself: it is given orders and contents, and what it reads back is compared. */
final class MediumWork
{
    /** Microseconds between two looks at what it says. */
    private const LOOK = 200_000;

    private readonly LayoutPlan $plan;

    private readonly Exchange $exchange;

    private readonly MetalOrders $orders;

    private readonly Contents $maker;

    private float $looked = 0.0;

    /** From when on the medium may have begun; before that it waits on. */
    private bool $isOrdered = false;

    public function __construct(
        private readonly Run $run,
        private readonly Enrolment $enrolment,
        private readonly MetalOrder $order,
        MetalSource $source,
        RunProgress $progress,
    ) {
        $this->plan = $order->plan();
        $this->exchange = Exchange::of($run);
        $token = (string) $enrolment->token;
        $cards = NamedCards::pairs($source->cards(), $order->machine->cards);
        $to = new Sending($source, $this->exchange, $progress, $token, $this->wait(...), $order->renewsId, $cards);
        $isFirst = $order->number === 1;
        $this->orders = $isFirst
            ? MetalOrders::of($this->plan, $token, $order->rehearses, $order->end())
            : MetalOrders::step($this->plan, $token, $order->number, $order->end());
        $this->maker = $isFirst ? new ContentMaker($to, $this->plan) : new StepMaker($to, $this->orders, new KeptTrees($enrolment));
    }

    public function give(): string
    {
        if ($this->order->number > 1 && $this->exchange->isBegun()) {
            $this->isOrdered = true;
            throw CannotBring::because('It was cut off in the middle of a step, and nobody knows how far that had come');
        }
        $this->run->update(['bytes_total' => $this->plan->used()]);
        $this->enrolment->update(['orders' => $this->order->number]);
        $this->exchange->begin();
        $this->exchange->order($this->orders->text());
        $this->isOrdered = true;

        return Words::count(substr_count($this->orders->text(), "\n") - 1, 'order').', signed for this machine';
    }

    public function bring(): string
    {
        foreach ($this->orders->contents() as $content) {
            $this->maker->make($content);
        }

        return Words::count(count($this->orders->contents()), 'content').', each piece signed';
    }

    /**
     * Waits until the medium has done all of it.
     *
     * @return list<CheckLine>
     *
     * @throws CannotBring|UnableToRestore if there is nothing to wait for any more
     */
    public function readBack(): array
    {
        while (array_filter($this->exchange->told(), fn (array $told): bool => $told['step'] === 'done') === []) {
            $this->wait();
            usleep(self::LOOK);
        }

        return $this->checks();
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

    /** @return list<CheckLine> */
    private function checks(): array
    {
        if ($this->order->rehearses) {
            return [CheckLine::of('rehearsed', true, 'all contents came over, each piece as it was signed')];
        }
        $checks = [];
        if ($this->order->renewsId && $this->order->number === 1) {
            $checks[] = CheckLine::of('the machine id', $this->maker->isRenewed, $this->maker->isRenewed
                ? 'left empty: it makes one of its own when it starts'
                : 'there was no '.RenewedTree::ID.' among what was made anew: it has that of the machine that it was, if any');
        }
        foreach ($this->orders->listings() as $of) {
            $key = $of->place()->key;
            $checks[] = $of->kind === OrderedContent::FILES ? $this->tree($of, $key) : $this->sum($of, $key);
        }

        return $checks;
    }

    private function tree(OrderedContent $of, string $key): CheckLine
    {
        $record = $this->maker->records[$key];
        $record->compare(...array_map(fn (string $part) => $this->exchange->listing($of, $part), ['entries', 'digests', 'attributes']));

        return CheckLine::of(
            "what lies on $key",
            $record->wrong === 0,
            $record->wrong === 0
                ? Words::count($record->count(), 'name').' with content, owner, mode, time, links and attributes, read from the disk again'
                : Words::count($record->wrong, 'difference').': '.implode('; ', array_slice($record->differences, 0, 5)),
        );
    }

    private function sum(OrderedContent $of, string $key): CheckLine
    {
        $got = trim((string) stream_get_contents($this->exchange->listing($of, 'sum')));
        $isRight = hash_equals($this->maker->sums[$key], $got);

        return CheckLine::of(
            $of->kind === OrderedContent::HEAD ? "what $key says of its volume group" : "every byte of $key",
            $isRight,
            $isRight ? "SHA-256 $got, read from the disk again" : "SHA-256 $got, and {$this->maker->sums[$key]} was sent",
        );
    }

    /** It waits for further orders, and what lies on its disks now is kept in mind. */
    public function rest(): void
    {
        (new KeptTrees($this->enrolment))->keep($this->maker->records);
        $this->enrolment->inStep($this->run->set_id, $this->order->follow);
        $this->exchange->keepTold();
    }

    /** Its token is worth nothing from then on; nothing of its contents is kept, if it was given any. */
    public function end(): void
    {
        $this->enrolment->refresh()->ended_at !== null || $this->enrolment->end('its run is over');
        $this->isOrdered && $this->exchange->keepTold();
    }

    public function hasBegun(): bool
    {
        return $this->isOrdered;
    }

    /** @return array<string, mixed> what the run keeps of it */
    public function outcome(): array
    {
        return [
            'disks' => array_map(fn (PlannedDisk $disk): array => [
                'disk' => $disk->was->name, 'onto' => $disk->onto->name, 'serial' => $disk->onto->serial, 'bytes' => $disk->onto->bytes,
            ], $this->plan->disks),
            'left_out' => $this->maker->leftOut,
            'told' => $this->exchange->told(),
            'bytes' => (int) $this->run->refresh()->bytes_done,
        ];
    }
}
