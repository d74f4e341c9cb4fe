<?php

declare(strict_types=1);

namespace App\View;

use App\Models\Approval;
use App\Models\User;
use App\Orders\Worksheet;

/** What somebody sees who is to decide on an order: the order, and what it would do now. */
final class ApprovalView
{
    public readonly Worksheet $sheet;

    public readonly bool $canDecide;

    public function __construct(public readonly Approval $approval, public readonly User $user)
    {
        $this->sheet = new Worksheet($approval->request);
        $this->canDecide = $user->can('decide', $approval);
    }

    /** Whether the order still is what was asked about. */
    public function isSame(): bool
    {
        return $this->sheet->blockers === [] && $this->sheet->fingerprint() === $this->approval->order;
    }
}
