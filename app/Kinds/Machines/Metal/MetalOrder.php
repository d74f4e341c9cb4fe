<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Hypervisors\Answer;
use App\Kinds\Machines\Order\CannotBring;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\LayoutProposal;
use Kaiseki\Core\Metal\LayoutRecord;
use Kaiseki\Core\Metal\LayoutWish;
use Kaiseki\Core\Metal\MetalOrders;
use Kaiseki\Core\Metal\Said;
use Kaiseki\Core\Metal\TargetMachine;

/** A machine that is to come onto the disks of another, as it is confirmed, kept with the run, and carried out. */
final readonly class MetalOrder
{
    public const WAY = 'metal';

    /**
     * @param  int  $enrolment  of the machine
     * @param  LayoutRecord  $layout  how the disks were laid out
     * @param  TargetMachine  $machine  as it told itself when this was confirmed
     * @param  bool  $rehearses  whether all is done but writing
     * @param  bool  $restarts  whether it is restarted at the end; else it goes off
     * @param  string  $address  HOST or HOST:PORT at which it is asked then who it is; '' for nowhere
     * @param  Answer|null  $answer  by what it is told from another
     * @param  bool  $renewsId  whether it gets a machine id of its own: the one that it was stays where it is
     * @param  int|null  $follow  minutes between two looks for a newer point, for which its medium waits; null if it does not
     * @param  int  $number  of its orders: from 2 on it changes what was brought before
     * @param  int|null  $ownOf  the person whose machine it is, who brings it themselves; null for the desk
     */
    public function __construct(
        public int $enrolment,
        public LayoutRecord $layout,
        public TargetMachine $machine,
        public LayoutWish $wish,
        public bool $rehearses = false,
        public bool $restarts = false,
        public CopyRule $copies = new CopyRule,
        public string $sentence = '',
        public string $address = '',
        public ?Answer $answer = null,
        public bool $renewsId = false,
        public ?int $follow = null,
        public int $number = 1,
        public ?int $ownOf = null,
    ) {
    }

    /** What the medium does in the end. */
    public function end(): string
    {
        return match (true) {
            $this->follow !== null => MetalOrders::WAIT,
            $this->restarts => MetalOrders::REBOOT,
            default => MetalOrders::OFF,
        };
    }

    /** The same again and again: nothing of it depends on when it is asked. */
    public function plan(): LayoutPlan
    {
        return LayoutProposal::of($this->layout, $this->machine, $this->wish);
    }

    /** The same with other values of some of its fields. */
    public function with(mixed ...$changes): self
    {
        return new self(...$changes + get_object_vars($this));
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'way' => self::WAY,
            'enrolment' => $this->enrolment,
            'layout' => $this->layout->toArray(),
            'machine' => $this->machine->toArray(),
            'onto' => $this->wish->onto,
            'without' => $this->wish->without,
            'sizes' => $this->wish->sizes,
            'rehearses' => $this->rehearses,
            'restarts' => $this->restarts,
            'use' => $this->copies->use,
            'avoid' => $this->copies->avoid,
            'sentence' => $this->sentence,
            'address' => $this->address,
            'asked' => $this->answer?->asked,
            'answers' => $this->answer->files ?? [],
        ] + ($this->renewsId ? ['renews_id' => true] : [])
            + ($this->follow === null ? [] : ['follow' => $this->follow])
            + ($this->number === 1 ? [] : ['number' => $this->number])
            + ($this->ownOf === null ? [] : ['own_of' => $this->ownOf]);
    }

    /**
     * @param  array<string, mixed>  $kept
     *
     * @throws CannotBring if it is none
     */
    public static function fromArray(array $kept): self
    {
        return new self(
            (int) $kept['enrolment'],
            LayoutRecord::ofJson((string) json_encode($kept['layout'])),
            TargetMachine::said(Said::of((array) $kept['machine'])),
            new LayoutWish(
                array_map(strval(...), (array) $kept['onto']),
                array_map(strval(...), array_values((array) $kept['without'])),
                array_map(intval(...), (array) $kept['sizes']),
            ),
            (bool) $kept['rehearses'],
            (bool) $kept['restarts'],
            new CopyRule($kept['use'] ?? [], $kept['avoid'] ?? []),
            (string) ($kept['sentence'] ?? ''),
            (string) ($kept['address'] ?? ''),
            isset($kept['asked'])
                ? new Answer((string) $kept['asked'], array_map(strval(...), array_values((array) ($kept['answers'] ?? []))))
                : null,
            (bool) ($kept['renews_id'] ?? false),
            isset($kept['follow']) ? (int) $kept['follow'] : null,
            (int) ($kept['number'] ?? 1),
            isset($kept['own_of']) ? (int) $kept['own_of'] : null,
        );
    }
}
