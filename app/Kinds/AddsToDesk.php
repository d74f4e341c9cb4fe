<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\User;
use App\View\WaitingThing;

/** A kind of which something may wait for an operator that nobody else knows of. */
interface AddsToDesk
{
    /** @return list<WaitingThing> of what this person sees */
    public function waiting(User $user): array;
}
