<?php

declare(strict_types=1);

namespace App\Kinds\Machines;

use App\Kinds\KindProvider;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Hypervisors\HypervisorHostPolicy;
use App\Kinds\Machines\Hypervisors\LookAtHypervisors;
use App\Kinds\Machines\Metal\Enrolment;
use App\Kinds\Machines\Metal\EnrolmentPolicy;
use App\Kinds\Machines\Metal\KeptMedium;
use App\Kinds\Machines\Metal\KeptMediumPolicy;
use App\Kinds\Machines\Page\HostsView;
use App\Kinds\Machines\Page\PlacedRunView;
use App\Kinds\Machines\Snapshots\TakeSnapshots;
use App\Kinds\Machines\Standing\FollowPoints;
use App\Kinds\Machines\Standing\ServeDisks;
use App\Kinds\Machines\Standing\SettleWhenDue;
use App\Line\OnlyByLine;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Support\Facades\Gate;
use Illuminate\Support\Facades\Route;
use Illuminate\View\View;

/** What machines need of the application. */
final class MachinesProvider extends KindProvider
{
    public function boot(): void
    {
        parent::boot();
        $this->commands(ServeDisks::class);
        Route::middleware(OnlyByLine::class)->prefix('metal')->group(__DIR__.'/medium-routes.php');
        Gate::policy(HypervisorHost::class, HypervisorHostPolicy::class);
        Gate::policy(Enrolment::class, EnrolmentPolicy::class);
        Gate::policy(KeptMedium::class, KeptMediumPolicy::class);
        $this->callAfterResolving(
            Schedule::class,
            function (Schedule $schedule): void {
                $schedule->job(new LookAtHypervisors)->everyMinute();
                $schedule->job(new SettleWhenDue)->everyMinute();
                $schedule->job(new FollowPoints)->everyMinute();
                $schedule->job(new TakeSnapshots)->everyMinute();
            },
        );
    }

    protected function parts(): array
    {
        return [
            'estate' => fn (View $view): array => ['seen' => HostsView::for($view['user'])],
            'placed-run' => fn (View $view): array => ['view' => new PlacedRunView($view['run'], auth()->user())],
        ];
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
