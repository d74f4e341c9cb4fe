<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Metal\KeptLayout;
use App\Kinds\Machines\Metal\MetalPlan;
use App\Models\RecoveryRequest;
use App\Models\User;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Words;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Metal\LayoutRecord;
use Kaiseki\Core\Metal\PlannedDisk;
use Kaiseki\Core\Metal\PlannedGroup;
use Kaiseki\Core\Metal\RecordedDisk;
use Kaiseki\Core\Metal\RecordedGroup;
use Kaiseki\Core\Metal\TargetDisk;
use Kaiseki\Core\Metal\TargetMachine;

/** The page of one enrolment: the machine that a medium was started on, and how the disks of a point come onto its own. */
final class MetalView
{
    public readonly Points $points;

    /** That of its request, or the newest one that can be used. */
    public readonly ?SetOutline $point;

    public readonly ?LayoutRecord $record;

    public readonly ?TargetMachine $machine;

    /** Null while there is no machine, or its layout was not read. */
    public readonly ?MetalPlan $plan;

    /** @param  int|null  $follow  see MetalOrder */
    public function __construct(
        public readonly Enrolment $enrolment,
        public readonly User $user,
        bool $rehearses = false,
        ?int $follow = null,
    ) {
        $this->points = new Points($enrolment->workload, null, $this->copies());
        $this->point = self::pointFor($enrolment->request, $this->points);
        $this->record = $this->point === null ? null : KeptLayout::of($this->points->model($this->point));
        $this->machine = $enrolment->machine === null ? null : $enrolment->targetMachine();
        $this->plan = $this->point === null || $this->record === null || $this->machine === null
            ? null
            : MetalPlan::settle(
                $this->points,
                $this->point,
                $enrolment,
                $enrolment->layoutWish(),
                $rehearses,
                true,
                $this->copies(),
                $follow,
            );
    }

    /** That which a request chose, or asks for; without one the newest that can be used. */
    public static function pointFor(?RecoveryRequest $request, Points $points): ?SetOutline
    {
        $wanted = $request === null ? Instant::of(now()->toImmutable()) : Instant::of($request->wanted_at);
        $found = $points->find($wanted, $request === null ? new Demands : Demands::parse($request->demands))->set;

        return $points->sets[$request->set_id ?? 0] ?? ($found === null ? null : $points->set($found->id));
    }

    public function copies(): CopyRule
    {
        return $this->enrolment->request?->copyRule() ?? new CopyRule;
    }

    public function drawing(): ?LayoutDrawing
    {
        return $this->plan === null || $this->plan->layout->disks === [] ? null : LayoutDrawing::of($this->plan->layout);
    }

    /** What becomes of a disk; null if it is not brought. */
    public function planned(RecordedDisk $disk): ?PlannedDisk
    {
        foreach ($this->plan->layout->disks ?? [] as $planned) {
            if ($planned->was->name === $disk->name) {
                return $planned;
            }
        }

        return null;
    }

    public function isWaiting(): bool
    {
        return $this->enrolment->token === null && $this->enrolment->ended_at === null && ! $this->enrolment->expires_at->isPast();
    }

    /** What becomes of a volume group; null if it is not brought. */
    public function plannedGroup(RecordedGroup $group): ?PlannedGroup
    {
        foreach ($this->plan->layout->groups ?? [] as $planned) {
            if ($planned->was->name === $group->name) {
                return $planned;
            }
        }

        return null;
    }

    /** Mebibytes of a partition or a volume as somebody said them; '' where nobody did. */
    public function sizeSaid(string $key): string
    {
        $bytes = $this->enrolment->layoutWish()->sizes[$key] ?? null;

        return $bytes === null ? '' : (string) ($bytes >> 20);
    }

    /** Whether something can be ordered to it now. */
    public function mayOrder(): bool
    {
        return $this->plan !== null && $this->plan->blockers() === [] && $this->user->can('order', $this->enrolment);
    }

    public function about(): string
    {
        $machine = $this->machine;

        return $machine === null ? '' : implode(', ', array_filter([
            $machine->product,
            $machine->serial,
            strtoupper($machine->firmware),
            Words::size($machine->memory << 10).' of memory',
            Words::count(count($machine->cards), 'network card'),
            "asks from {$this->enrolment->address}",
        ], fn (string $one): bool => $one !== ''));
    }

    public static function onIt(TargetDisk $disk): string
    {
        return match (true) {
            $disk->isMedium => 'the medium, or it can be taken out',
            $disk->marks === [] => 'no table and no file system',
            default => implode(', ', $disk->marks),
        };
    }
}
