<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Metal;

use App\Kinds\Machines\Disks\DiskOfPoint;
use App\Kinds\Machines\Disks\KernelDrivers;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\ImagePlan;
use App\Kinds\Machines\Order\PlannedDisks;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Words;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Machine\UnreadableImage;
use Kaiseki\Core\Metal\DiskDrivers;
use Kaiseki\Core\Metal\LayoutPlan;
use Kaiseki\Core\Metal\LayoutReading;
use Kaiseki\Core\Metal\LayoutRecord;
use Kaiseki\Core\Metal\LayoutWish;
use Kaiseki\Core\Metal\PlannedDisk;
use Kaiseki\Core\Metal\RecordedDisk;
use Kaiseki\Core\Metal\TargetDisk;
use Kaiseki\Core\UnableToRead;

/** What an order onto the disks of a machine means at its point, and what stands in its way. */
final class MetalPlan
{
    public readonly LayoutPlan $layout;

    public readonly PlannedDisks $planned;

    private function __construct(
        public readonly Points $points,
        public readonly SetOutline $point,
        public readonly Enrolment $enrolment,
        public readonly MetalOrder $order,
    ) {
        $this->layout = $order->plan();
        $names = array_map(fn (PlannedDisk $disk): string => $disk->was->name, $this->layout->disks);
        $this->planned = new PlannedDisks($points, $point, $names, $order->copies);
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
    ): self {
        $layout = KeptLayout::read($points, $point, $copies);
        $order = new MetalOrder($enrolment->id, $layout, $enrolment->targetMachine(), $wish, $rehearses, $restarts, $copies);

        return new self($points, $point, $enrolment, $order);
    }

    /**
     * How the disks were laid out at a point, read off them; the one that it starts from first, as firmware does.
     *
     * @throws CannotBring
     */
    public static function record(Points $points, SetOutline $point, CopyRule $copies = new CopyRule): LayoutRecord
    {
        $disks = [];
        foreach (array_keys(ImagePlan::disksOf($points, $point)) as $name) {
            try {
                $disk = DiskOfPoint::of($points, $point, (string) $name, $copies);
                $disk === null || $disks[] = LayoutReading::ofDisk((string) $name, $disk->disk());
            } catch (UnreadableImage|UnableToRead $unreadable) {
                throw CannotBring::because("How $name was laid out cannot be read at {$point->name}: {$unreadable->getMessage()}.");
            }
        }

        usort($disks, fn (RecordedDisk $a, RecordedDisk $b): int => $b->mayStart() <=> $a->mayStart());

        return $disks === [] ? throw CannotBring::because("{$point->name} has no disk.") : new LayoutRecord($disks);
    }

    /** As it is kept with its run. */
    public function ordered(): MetalOrder
    {
        return $this->order->with(sentence: $this->sentence('UTC'));
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
            default => [],
        };
        try {
            return [...$blockers, ...$this->layout->misfits, ...$this->planned->blockers(false)];
        } catch (UnableToRead $unable) {
            return [...$blockers, ucfirst(rtrim($unable->getMessage(), '.')).'.'];
        }
    }

    /** @return list<string> what may not go well, in sentences */
    public function cautions(): array
    {
        $cautions = $this->layout->cautions;
        foreach ($this->layout->disks as $disk) {
            $kernel = $disk->was->mayStart() ? KernelDrivers::starting($this->points->model($this->point), $disk->was->name) : null;
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

    public function sentence(string $zone): string
    {
        $disks = array_map(fn (PlannedDisk $disk): string => "{$disk->was->name} onto {$disk->onto->name}", $this->layout->disks);

        return sprintf(
            '%s %s as of %s to the machine of enrolment %d%s: %s%s, and read all of it again.',
            $this->order->rehearses ? 'Rehearse to bring' : 'Bring',
            $this->points->workload->name,
            Words::moment($this->point->capturedAt(), $zone),
            $this->enrolment->id,
            $this->order->machine->product === '' ? '' : " ({$this->order->machine->product})",
            $disks === [] ? 'nothing' : implode(', ', $disks),
            $this->order->rehearses ? ', without writing' : ', over what is there',
        );
    }
}
