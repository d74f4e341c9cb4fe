<?php

declare(strict_types=1);

namespace App\Console\Commands;

use App\Demo\People;
use Illuminate\Console\Command;

final class ListSignIns extends Command
{
    protected $signature = 'kaiseki:sign-ins';

    protected $description = 'Lists the sign-ins of the demo';

    public function handle(): int
    {
        $this->line('Demo sign-ins (invented people), all with the password '.People::PASSWORD.':');
        foreach (People::ALL as [$name, $email, $role]) {
            $this->line(sprintf('  %-36s %s, %s', $email, $name, $role));
        }

        return 0;
    }
}
