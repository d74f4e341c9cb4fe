<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Http;

use App\Models\User;
use Carbon\CarbonImmutable;

/** A form in which somebody may say at which time something begins: its field "at". */
trait SaysWhen
{
    /** When it is to begin; null for now. What is said is meant in the zone of who says it. */
    public function at(User $user): ?CarbonImmutable
    {
        return $this->filled('at') ? CarbonImmutable::parse($this->string('at')->value(), $user->zone)->utc() : null;
    }
}
