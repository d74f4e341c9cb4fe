<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Order\CannotBring;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Words;
use Closure;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Metal\DiskDrivers;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\LayoutWish;
use Kaiseki\Core\Metal\NamedCards;
use Kaiseki\Core\Metal\PlannedDisk;
use Kaiseki\Core\Metal\TargetDisk;
use Kaiseki\Core\UnableToRead;

/** What an order onto the disks of a machine means at its point, and what stands in its way. */
final class MetalPlan
{
    public readonly LayoutPlan $layout;

    public readonly MetalSource $source;

    private function __construct(
        public readonly Points $points,
        public readonly SetOutline $point,
        public readonly Enrolment $enrolment,
        public readonly MetalOrder $order,
    ) {
        $this->layout = $order->plan();
        $names = array_map(fn (PlannedDisk $disk): string => $disk->was->name, $this->layout->disks);
        $this->source = MetalSources::of($points, $point, $order->copies);
        $this->source->only($names);
    }

    /** @throws CannotBring if the disks of the point cannot be read */
    public static function settle(
        Points $points,
        SetOutline $point,
        Enrolment $enrolment,
        LayoutWish $wish,
        bool $rehearses,
        bool $restarts,
        CopyRule $copies,
        ?int $follow = null,
    ): self {
        $layout = KeptLayout::read($points, $point, $copies);
        $machine = $enrolment->targetMachine();
        $order = new MetalOrder($enrolment->id, $layout, $machine, $wish, $rehearses, $restarts, $copies, follow: $follow);

        return new self($points, $point, $enrolment, $order);
    }

    /**
     * As it is kept with its run.
     *
     * @param  bool  $renewsId  see MetalOrder
     */
    public function ordered(bool $renewsId = false): MetalOrder
    {
        return $this->order->with(sentence: $this->sentence('UTC', $renewsId), renewsId: $renewsId);
    }

    /** @return list<string> what stands in the way; none if it can begin */
    public function blockers(): array
    {
        $one = $this->enrolment;
        $blockers = match (true) {
            $one->ended_at !== null || $one->token === null => ["The enrolment {$one->id} {$one->state()}."],
            $one->workload_id !== $this->points->workload->id => ["The enrolment {$one->id} is for {$one->workload->name} only."],
            $one->isSilent() => ['The machine has not been heard of for '.Words::duration(Enrolment::SILENT).': is it still on?'],
            $one->run !== null && ! $one->run->isOver() => ["Run {$one->run_id} is at work on that machine."],
            $one->isFollowing() => ['That machine waits for newer points: switch it over, or end its enrolment.'],
            $this->order->follow !== null && $this->order->machine->version < 2 => [
                'The medium on that machine is older than this desk, and waits for nothing: start one that is made now.',
            ],
            default => [],
        };
        try {
            return [...$blockers, ...$this->layout->misfits, ...$this->source->blockers()];
        } catch (UnableToRead $unable) {
            return [...$blockers, ucfirst(rtrim($unable->getMessage(), '.')).'.'];
        }
    }

    /** @return list<string> what may not go well, in sentences */
    public function cautions(): array
    {
        $cautions = [...$this->layout->cautions, ...$this->source->cautions()];
        $isUefi = $this->order->machine->firmware === 'uefi';
        array_push($cautions, ...$isUefi ? KeptLayout::cautions($this->points->model($this->point), $this->layout->disks) : []);
        $cards = $this->source->cards();
        $named = NamedCards::pairs($cards, $this->order->machine->cards);
        foreach ($cards as $card) {
            $isThere = in_array($card->address, $this->order->machine->cards, true);
            $isThere || $cautions[] = isset($named[$card->name])
                ? "Its network card {$card->name} was {$card->address}: {$named[$card->name]} is called so there, if it has systemd."
                : "It has no network card there for {$card->name}: what is set up for that finds none.";
        }
        foreach ($this->layout->disks as $disk) {
            $kernel = $disk->was->mayStart() ? $this->source->kernel($disk->was->name) : null;
            $missing = $kernel === null ? [] : DiskDrivers::missing($disk->onto, $this->order->machine, $kernel->modules);
            if ($missing !== []) {
                $cautions[] = "The kernel {$kernel->version} of {$disk->was->name} has no ".implode(', ', $missing).
                    ", built in or in its initramfs: it would not find {$disk->onto->name} on that machine. Have that made with it before.";
            }
        }

        return $cautions;
    }

    /**
     * What must be typed before a disk is written over: its serial number, or, where that would not tell it from another, its name and
     * bytes.
     *
     * @return array<string, string> disk of the machine => that
     */
    public function confirmations(): array
    {
        $serials = array_count_values(array_map(fn (TargetDisk $disk): string => $disk->serial, $this->order->machine->disks));
        $asked = [];
        foreach ($this->layout->disks as $disk) {
            $onto = $disk->onto;
            $isKnown = $onto->serial !== '' && $serials[$onto->serial] === 1;
            $asked[$onto->name] = $isKnown ? $onto->serial : "{$onto->name}:{$onto->bytes}";
        }

        return $asked;
    }

    /**
     * @param  Closure(string): string  $typed  what was typed for a disk of the machine
     * @return list<string> what stands in the way as long as that is not said, in sentences
     */
    public function unconfirmed(Closure $typed): array
    {
        $blockers = [];
        foreach ($this->confirmations() as $disk => $asked) {
            trim($typed((string) $disk)) === $asked || $blockers[] = "Type $asked to say that $disk may be written over.";
        }

        return $blockers;
    }

    public function sentence(string $zone, bool $renewsId = false): string
    {
        $disks = array_map(fn (PlannedDisk $disk): string => "{$disk->was->name} onto {$disk->onto->name}", $this->layout->disks);

        return sprintf(
            '%s %s as of %s to the machine of enrolment %d%s: %s%s%s, and read all of it again.',
            $this->order->rehearses ? 'Rehearse to bring' : 'Bring',
            $this->points->workload->name,
            Words::moment($this->point->capturedAt(), $zone),
            $this->enrolment->id,
            $this->order->machine->product === '' ? '' : " ({$this->order->machine->product})",
            $disks === [] ? 'nothing' : implode(', ', $disks),
            $this->order->rehearses ? ', without writing' : ', over what is there',
            $renewsId ? ', with a machine id of its own' : '',
        ).($this->order->follow === null ? '' : " Then it waits, and is kept in step with newer points, every {$this->order->follow} min.");
    }
}
