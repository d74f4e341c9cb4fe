<?php

declare(strict_types=1);

use App\Jobs\ResumeAbandonedRuns;
use Illuminate\Support\Facades\Schedule;

Schedule::job(new ResumeAbandonedRuns)->everyMinute();
