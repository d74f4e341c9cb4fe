<?php

declare(strict_types=1);

namespace App\Orders;

use App\Models\RecoveryRequest;

/** What is settled for a request, whatever its kind: enough to ask for approval, and to begin. */
interface OrderSheet
{
    public function request(): RecoveryRequest;

    /** @return list<string> what stands in the way */
    public function blockers(): array;

    public function sentence(string $zone): string;

    /** Changes whenever the order does, or what stands in its target. */
    public function fingerprint(): string;

    public function needsApproval(): bool;

    /** @return array<string, mixed> what it would do, for whoever approves it */
    public function previewCounts(): array;

    /** @return array<string, mixed> the columns of the run that it becomes */
    public function runAttributes(bool $setFirst): array;
}
