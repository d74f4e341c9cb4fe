<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\RecoveryRequest;
use App\Models\User;
use App\Models\Workload;
use App\Sets\CopyChoices;

/** What is settled for a request, whatever its kind: enough to ask for approval, and to begin. */
interface OrderSheet
{
    public function request(): RecoveryRequest;

    /** @return list<string> what stands in the way; of the target, as it was when somebody looked at it last */
    public function blockers(): array;

    /** Looks at the target now, which may take seconds: before anything is ordered, and never for a page. */
    public function lookAgain(): void;

    public function sentence(string $zone): string;

    /** Changes whenever the order does, or what stands in its target. */
    public function fingerprint(): string;

    public function touches(): Touched;

    /** Whether it changes anything of a workload that is marked: its own, or the one whose place it goes to. */
    public function needsApproval(): bool;

    /** @return list<Workload> those that are marked, of its own and of whatever it may change */
    public function marked(): array;

    /** Why somebody may not order this; null if they may. */
    public function refusedTo(User $user): ?string;

    /** @return array<string, mixed> what it would do, for whoever approves it */
    public function previewCounts(): array;

    /** @return list<int> ids of the sets that it reads at their points: they are held while the request is open */
    public function sets(): array;

    /** From which copies it is read, and what others would cost; null while nothing is settled that is read. */
    public function copies(): ?CopyChoices;

    /** @return iterable<string>|null the same as commands for a person; null while it is not settled */
    public function handSheet(): ?iterable;

    /** @return array<string, mixed> the columns of the run that it becomes: set_id, plan, is_whole, taken_as, and how much it is */
    public function runAttributes(bool $setFirst): array;
}
