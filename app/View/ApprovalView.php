<?php

declare(strict_types=1);

namespace App\View;

use App\Kinds\Kinds;
use App\Kinds\OrderSheet;
use App\Models\Approval;
use App\Models\User;

/** What somebody sees who is to decide on an order: the order, and what it would do now. */
final class ApprovalView
{
    public readonly OrderSheet $sheet;

    public readonly bool $canDecide;

    private ?bool $isSame = null;

    public function __construct(public readonly Approval $approval, public readonly User $user)
    {
        $this->sheet = Kinds::ofRequest($approval->request)->sheet($approval->request);
        $this->canDecide = $user->can('decide', $approval);
    }

    /** The order: in the viewer's zone while it is what was asked about, else as it was written down. */
    public function sentence(): string
    {
        return $this->approval->state === 'asked' && $this->isSame()
            ? $this->sheet->sentence($this->user->zone)
            : $this->approval->sentence;
    }

    /** Who decides, where it is not who looks at it. */
    public function decides(): string
    {
        $duty = $this->approval->duty;

        return $duty === null ? 'You asked for it: somebody else must decide.' : "Somebody else decides, who may {$duty->words()}.";
    }

    /** The view of what the order does, thing by thing: its kind's. */
    public function part(): string
    {
        return Kinds::ofRequest($this->approval->request)->view('approval');
    }

    /** Whether what was begun without a second person has not begun yet. */
    public function isStillWaiting(): bool
    {
        $run = $this->approval->run;

        return $run?->state === 'queued' && $run->starts_at?->isFuture() === true && $this->user->can('halt', $run);
    }

    /** Whether the order still is what was asked about. */
    public function isSame(): bool
    {
        return $this->isSame ??= $this->sheet->blockers() === [] && $this->sheet->fingerprint() === $this->approval->order;
    }
}
