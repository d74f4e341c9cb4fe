<?php

declare(strict_types=1);

use App\Jobs\ExpireByRules;
use App\Jobs\MakeSetsBySchedule;
use App\Jobs\ReadBackByPlan;
use App\Jobs\ResumeAbandonedRuns;
use Illuminate\Support\Facades\Schedule;

Schedule::job(new ResumeAbandonedRuns)->everyMinute();
Schedule::job(new ReadBackByPlan)->everyMinute();
Schedule::job(new MakeSetsBySchedule)->everyMinute();
Schedule::job(new ExpireByRules)->hourly();
