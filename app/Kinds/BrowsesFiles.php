<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\Workload;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputInterface;

/** The terminal of a kind whose points can be looked into as folders of files: its takes() name "browse". */
interface BrowsesFiles extends Terminal
{
    /**
     * Lists a folder (--path) as it was at a moment (--at).
     *
     * @throws InvalidArgumentException|Refusal
     */
    public function browse(Workload $workload, InputInterface $input): Told;
}
