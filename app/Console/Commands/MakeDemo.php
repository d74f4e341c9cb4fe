<?php

declare(strict_types=1);

namespace App\Console\Commands;

use Illuminate\Console\Command;

final class MakeDemo extends Command
{
    protected $signature = 'kaiseki:demo';

    protected $description = 'Makes the demo: six weeks of Sorrel Sound Ferries';

    public function handle(): int
    {
        return 0;
    }
}
