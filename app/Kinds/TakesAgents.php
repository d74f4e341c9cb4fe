<?php

declare(strict_types=1);

namespace App\Kinds;

/** A kind whose workloads may be machines that send their sets themselves, by an agent. */
interface TakesAgents extends Kind
{
}
