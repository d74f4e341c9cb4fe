<?php

declare(strict_types=1);

use App\Jobs\ExpireByRules;
use App\Jobs\IndexTexts;
use App\Jobs\MakeSetsBySchedule;
use App\Jobs\NightWork;
use App\Jobs\ReadBackByPlan;
use App\Jobs\ReckonStale;
use App\Jobs\ResumeAbandonedRuns;
use App\Jobs\SealTrail;
use App\Jobs\SendAlarms;
use App\Jobs\SendTrail;
use App\Jobs\TakeUpNewSources;
use App\Jobs\WatchAlarms;
use Illuminate\Support\Facades\Schedule;

// Each job knows its line: see App\Jobs\Line.
Schedule::job(new ResumeAbandonedRuns)->everyMinute();
Schedule::job(new MakeSetsBySchedule)->everyMinute();
Schedule::job(new ReckonStale)->everyMinute();
Schedule::job(new TakeUpNewSources)->everyMinute();
Schedule::job(new ReadBackByPlan)->everyMinute();
Schedule::job(new SealTrail)->everyMinute();
Schedule::job(new SendTrail)->everyMinute();
Schedule::job(new WatchAlarms)->everyMinute();
Schedule::job(new SendAlarms)->everyMinute();
Schedule::job(new IndexTexts)->everyFiveMinutes();
Schedule::job(new ExpireByRules)->hourly();
Schedule::job(new NightWork)->dailyAt('05:10');
