<?php

declare(strict_types=1);

namespace App\Kinds\Items;

use App\Kinds\Items\Catalog\ForgetGoneItems;
use App\Kinds\Items\Catalog\LookThroughItems;
use App\Kinds\Items\Own\OwnRule;
use App\Kinds\Items\Run\SeenAsUser;
use App\Kinds\KindProvider;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\View\View;

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

    protected function parts(): array
    {
        return [
            'care' => fn (View $view): array => ['rule' => OwnRule::of($view['workload'])],
            'own-run' => fn (View $view): array => ['mailbox' => SeenAsUser::mailboxOf($view['run'])],
            'seen-as-user' => fn (View $view): array => ['seen' => $view['run']->outcome['seen_as_user'] ?? null],
        ];
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
