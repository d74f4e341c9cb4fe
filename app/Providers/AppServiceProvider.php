<?php

declare(strict_types=1);

namespace App\Providers;

use App\Agents\Agent;
use App\Kinds\Kinds;
use App\Line\OnlyByLine;
use App\Models\Alarm;
use App\Models\Approval;
use App\Models\BackupSet;
use App\Models\Consent;
use App\Models\RecoveryRequest;
use App\Models\Role;
use App\Models\Run;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use App\Policies\AgentPolicy;
use App\Policies\AlarmPolicy;
use App\Policies\ApprovalPolicy;
use App\Policies\BackupSetPolicy;
use App\Policies\ConsentPolicy;
use App\Policies\RecoveryRequestPolicy;
use App\Policies\RunPolicy;
use App\Policies\StorePolicy;
use App\Policies\WorkloadPolicy;
use App\View\RunBar;
use Carbon\CarbonImmutable;
use Illuminate\Pagination\Paginator;
use Illuminate\Support\Facades\Date;
use Illuminate\Support\Facades\Gate;
use Illuminate\Support\Facades\Queue;
use Illuminate\Support\Facades\Route;
use Illuminate\Support\Facades\View as Views;
use Illuminate\Support\ServiceProvider;
use Illuminate\View\View;

final class AppServiceProvider extends ServiceProvider
{
    /** What each kind brings: migrations, routes, views. */
    public function register(): void
    {
        foreach (Kinds::all() as $kind) {
            $provider = $kind->provider();
            if ($provider !== null) {
                $this->app->register($provider);
            }
        }
    }

    public function boot(): void
    {
        Date::use(CarbonImmutable::class);
        Paginator::useBootstrapFive();
        Views::composer('runs.progress', fn (View $view): View => $view->with('bar', new RunBar($view['run'])));
        Queue::before(fn () => $this->app->instance(TrailEntry::JOB, true));
        Queue::after(fn () => $this->app->forgetInstance(TrailEntry::JOB));
        Queue::exceptionOccurred(fn () => $this->app->forgetInstance(TrailEntry::JOB));
        Route::middleware(OnlyByLine::class)->prefix('agent')->group(base_path('routes/line.php'));
        Gate::policy(Agent::class, AgentPolicy::class);
        Gate::policy(Alarm::class, AlarmPolicy::class);
        Gate::policy(BackupSet::class, BackupSetPolicy::class);
        Gate::policy(Workload::class, WorkloadPolicy::class);
        Gate::policy(RecoveryRequest::class, RecoveryRequestPolicy::class);
        Gate::policy(Approval::class, ApprovalPolicy::class);
        Gate::policy(Run::class, RunPolicy::class);
        Gate::policy(Store::class, StorePolicy::class);
        Gate::policy(Consent::class, ConsentPolicy::class);
        // The estate, its stores and its proofs: for everybody but who only asks, or says who may reach what.
        Gate::define('see-estate', fn (User $user): bool => $user->seesWork());
        Gate::define('see-rights', fn (User $user): bool => in_array($user->role, [Role::Administrator, Role::Auditor], true));
        Gate::define('see-trail', fn (User $user): bool => $user->role === Role::Auditor);
        Gate::define('administer', fn (User $user): bool => $user->role === Role::Administrator);
    }
}
