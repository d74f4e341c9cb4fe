<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\Store;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Has read back what the plans of the stores ask for now; one that was killed goes on when the next minute comes. */
final class ReadBackByPlan implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 120;

    public function __construct()
    {
        $this->onQueue(Line::Clock->value);
    }

    public function handle(): void
    {
        foreach (Store::query()->whereNotNull('check_bytes_a_night')->orderBy('id')->pluck('id') as $id) {
            ReadBackStore::dispatch((int) $id);
        }
    }
}
