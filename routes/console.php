<?php

declare(strict_types=1);

use App\Jobs\ExpireByRules;
use App\Jobs\IndexTexts;
use App\Jobs\MakeSetsBySchedule;
use App\Jobs\NightWork;
use App\Jobs\ReadBackByPlan;
use App\Jobs\ResumeAbandonedRuns;
use Illuminate\Support\Facades\Schedule;

Schedule::job(new ResumeAbandonedRuns, 'runs')->everyMinute();
Schedule::job(new MakeSetsBySchedule, 'runs')->everyMinute();
Schedule::job(new IndexTexts, 'checks')->everyFiveMinutes();
Schedule::job(new ReadBackByPlan, 'checks')->everyMinute();
Schedule::job(new ExpireByRules)->hourly();
Schedule::job(new NightWork)->dailyAt('05:10');
