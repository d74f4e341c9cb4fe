<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\Run;
use App\Models\User;

/** A kind of which people may look for and bring back what is their own, where a rule lets them, without an operator. */
interface OffersOwn
{
    /** @return array<string, string> address of the page for it => its name; none for a person who has nothing there */
    public function ownPages(User $user): array;

    /** Whether the run is one by which the person who ordered it brings back their own. */
    public function isOwn(Run $run): bool;

    /** Why such a run may not go on; null if it may. */
    public function refusesOwn(Run $run): ?string;
}
