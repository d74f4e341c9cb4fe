<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Jobs\Line;
use App\Kinds\Machines\Home\GoHome;
use App\Kinds\Machines\Order\CannotBring;
use App\Models\TrailEntry;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/** Begins to settle machines, and to take them home, whose time for that has come. */
final class SettleWhenDue implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 120;

    public function __construct()
    {
        $this->onQueue(Line::Clock->value);
    }

    public function handle(): void
    {
        foreach (Standing::query()->whereNull('ended')->where('settle_at', '<=', now())->get() as $standing) {
            try {
                Settle::begin((new Settle($standing))->order(new SettleWish($standing->limit, $standing->storages ?? []), null));
            } catch (CannotBring $cannot) {
                $standing->update(['settle_at' => null]);
                $told = "{$standing->machine} was to be settled now, and was not: {$cannot->getMessage()}";
                TrailEntry::add($told, $standing->run->request, null, $standing->run);
            }
        }
        GoHome::whenDue();
    }
}
