<?php

declare(strict_types=1);

namespace App\Kinds\Items;

use App\Kinds\Items\Catalog\ForgetGoneItems;
use App\Kinds\Items\Catalog\LookThroughItems;
use App\Kinds\KindProvider;
use Illuminate\Console\Scheduling\Schedule;

/** What items need of the application. */
final class ItemsProvider extends KindProvider
{
    public function boot(): void
    {
        parent::boot();
        $this->callAfterResolving(
            Schedule::class,
            function (Schedule $schedule): void {
                $schedule->job(new LookThroughItems)->everyFiveMinutes();
                $schedule->job(new ForgetGoneItems)->dailyAt('04:40');
            },
        );
    }

    protected function folder(): string
    {
        return __DIR__;
    }

    protected function kind(): string
    {
        return Items::NAME;
    }
}
