<?php

declare(strict_types=1);

namespace App\Orders;

use App\Models\RecoveryRequest;
use App\Models\User;
use App\Models\Workload;

/** What is settled for a request, whatever its kind: enough to ask for approval, and to begin. */
interface OrderSheet
{
    public function request(): RecoveryRequest;

    /** @return list<string> what stands in the way */
    public function blockers(): array;

    public function sentence(string $zone): string;

    /** Changes whenever the order does, or what stands in its target. */
    public function fingerprint(): string;

    /** Whether it changes anything of a workload that is marked: its own, or the one whose place it goes to. */
    public function needsApproval(): bool;

    /** @return list<Workload> those that are marked, of its own and of whatever it may change */
    public function marked(): array;

    /** Why somebody may not order this, whose targets are not theirs; null if they may. */
    public function refusedTo(User $user): ?string;

    /** @return array<string, mixed> what it would do, for whoever approves it */
    public function previewCounts(): array;

    /** @return array<string, mixed> the columns of the run that it becomes */
    public function runAttributes(bool $setFirst): array;
}
