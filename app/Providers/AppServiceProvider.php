<?php

declare(strict_types=1);

namespace App\Providers;

use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\Workload;
use App\Policies\RecoveryRequestPolicy;
use App\Policies\RunPolicy;
use App\Policies\WorkloadPolicy;
use Carbon\CarbonImmutable;
use Illuminate\Cache\RateLimiting\Limit;
use Illuminate\Http\Request;
use Illuminate\Pagination\Paginator;
use Illuminate\Support\Facades\Date;
use Illuminate\Support\Facades\Gate;
use Illuminate\Support\Facades\RateLimiter;
use Illuminate\Support\ServiceProvider;

final class AppServiceProvider extends ServiceProvider
{
    public function boot(): void
    {
        Date::use(CarbonImmutable::class);
        Paginator::useBootstrapFive();
        Gate::policy(Workload::class, WorkloadPolicy::class);
        Gate::policy(RecoveryRequest::class, RecoveryRequestPolicy::class);
        Gate::policy(Run::class, RunPolicy::class);
        // Five tries a minute for one account from one address, thirty from one address whatever the account.
        RateLimiter::for('sign-in', fn (Request $request) => [
            Limit::perMinute(5)->by(mb_strtolower($request->string('email')->value()).'|'.$request->ip()),
            Limit::perMinute(30)->by((string) $request->ip()),
        ]);
    }
}
