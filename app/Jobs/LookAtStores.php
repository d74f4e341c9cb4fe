<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Stores\OpenStores;
use Illuminate\Contracts\Queue\ShouldBeUnique;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Support\Facades\DB;

/** Which stores answer, and how much is free there; the pages show what was found. */
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
            $free = $silence === null && $store->kind === 'folder' ? @disk_free_space($store->root) : false;
            DB::table('stores')
                ->where('id', $store->id)
                ->update([
                    'silence' => $silence === null ? null : mb_substr($silence, 0, 500),
                    'free_bytes' => $free === false ? null : (int) $free,
                    'looked_at' => now(),
                ]);
        }
    }
}
