<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\Workload;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputInterface;

/**
 * The terminal of a kind in whose points things of its own are looked for, by one line (the argument "pattern"): its takes() name "find".
 */
interface FindsByLine extends Terminal
{
    /** @throws InvalidArgumentException|Refusal */
    public function findByLine(Workload $workload, InputInterface $input, Talk $talk): Told;
}
