<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Stores\OpenStores;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Support\Facades\DB;

/** Which stores answer; the page of stores shows what was found. */
final class LookAtStores implements ShouldBeUnique, ShouldQueue
{
    use Queueable;

    public int $uniqueFor = 300;

    public function __construct()
    {
        $this->onQueue(Line::Looks->value);
        $this->onConnection(config('queue.looks'));
    }

    public function handle(): void
    {
        $stores = new OpenStores;
        foreach ($stores->all() as $store) {
            $silence = $stores->of($store)->silence(true);
            DB::table('stores')
                ->where('id', $store->id)
                ->update(['silence' => $silence === null ? null : mb_substr($silence, 0, 500), 'looked_at' => now()]);
        }
    }
}
