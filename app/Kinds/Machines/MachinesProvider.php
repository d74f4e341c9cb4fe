<?php

declare(strict_types=1);

namespace App\Kinds\Machines;

use App\Kinds\KindProvider;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\HypervisorHostPolicy;
use App\Kinds\Machines\Hypervisors\LookAtHypervisors;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Support\Facades\Gate;

/** What machines need of the application. */
final class MachinesProvider extends KindProvider
{
    public function boot(): void
    {
        parent::boot();
        Gate::policy(HypervisorHost::class, HypervisorHostPolicy::class);
        $this->callAfterResolving(
            Schedule::class,
            fn (Schedule $schedule) => $schedule->job(new LookAtHypervisors)->everyMinute(),
        );
    }

    protected function folder(): string
    {
        return __DIR__;
    }

    protected function kind(): string
    {
        return Machines::NAME;
    }
}
