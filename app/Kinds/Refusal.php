<?php

declare(strict_types=1);

namespace App\Kinds;

use Throwable;

/** A failure of a kind whose message says to people what stands in the way, and what to do. */
interface Refusal extends Throwable
{
}
