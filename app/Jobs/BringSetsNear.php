<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Sets\BringingProgress;
use App\Sets\CannotRegister;
use App\Sets\CopyOn;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Support\Facades\Cache;

/** Copies sets from tape or from afar to a store beside the target, for one request. */
final class BringSetsNear implements ShouldQueue
{
    use Queueable;

    private const KEPT_S = 86400;

    /** @param  list<int>  $sets  ids */
    public function __construct(public readonly int $request, public readonly int $store, public readonly array $sets)
    {
        $this->onQueue(Line::Runs->value);
    }

    /** @param  list<int>  $sets  ids */
    public static function begin(RecoveryRequest $request, Store $store, array $sets): void
    {
        Cache::put(self::key($request->id), ['done' => 0, 'all' => count($sets), 'store' => $store->name, 'failed' => null], self::KEPT_S);
        self::dispatch($request->id, $store->id, $sets);
    }

    /** How far it is; null if nothing is brought. */
    public static function progress(RecoveryRequest $request): ?BringingProgress
    {
        $kept = Cache::get(self::key($request->id));

        return is_array($kept)
            ? new BringingProgress((int) $kept['done'], (int) $kept['all'], (string) $kept['store'], $kept['failed'])
            : null;
    }

    public function handle(): void
    {
        $store = Store::query()->findOrFail($this->store);
        $request = RecoveryRequest::query()->findOrFail($this->request);
        $failed = null;
        $done = 0;
        foreach ($this->sets as $id) {
            $set = BackupSet::query()->with('copies.store', 'workload')->find($id);
            if ($set !== null && ! CopyOn::isThere($set, $store)) {
                try {
                    CopyOn::make($set, $store);
                } catch (CannotRegister $cannot) {
                    $failed = $cannot->getMessage();
                    break;
                }
            }
            Cache::put(
                self::key($this->request),
                ['done' => ++$done, 'all' => count($this->sets), 'store' => $store->name, 'failed' => null],
                self::KEPT_S,
            );
        }
        if ($failed !== null) {
            Cache::put(
                self::key($this->request),
                ['done' => $done, 'all' => count($this->sets), 'store' => $store->name, 'failed' => $failed],
                self::KEPT_S,
            );
        }
        if ($request->workload_id !== null) {
            ReckonStanding::begin($request->workload_id);
        }
        TrailEntry::add($failed ?? "$done sets were brought to {$store->name}.", $request, null);
    }

    private static function key(int $request): string
    {
        return "bring-$request";
    }
}
