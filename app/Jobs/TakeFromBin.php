<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Hosts\BinEntry;
use App\Hosts\HostBin;
use App\Hosts\Hosts;
use App\Models\RecoveryRequest;
use App\Models\TrailEntry;
use App\Models\User;
use App\Runs\TargetLock;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;
use Illuminate\Support\Facades\Cache;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Files\UnableToRestore;

/** Moves something out of the bin of a request's host to where it was. Nothing that stands there is touched. */
final class TakeFromBin implements ShouldQueue
{
    use Queueable;

    /** @param  string  $file  percent-encoded: where it lies in the bin */
    public function __construct(public readonly int $request, public readonly string $file, public readonly int $by)
    {
        $this->onQueue(Line::Runs->value);
    }

    public static function key(int $request): string
    {
        return "bin-$request";
    }

    public function handle(): void
    {
        $request = RecoveryRequest::query()->with('workload')->findOrFail($this->request);
        $source = $request->workload?->source;
        $entry = $source === null ? null : self::find($source, $request->workload->zone, rawurldecode($this->file));
        if ($source === null || $entry === null) {
            $this->tell($request, 'It does not lie in the bin any more.');

            return;
        }
        try {
            TargetLock::take($source);
            $folder = Hosts::openOriginal($source);
            $folder->makeFolder(EntryPath::split($entry->path)[0], 0755);
            if (! $folder->rename($entry->file, $entry->path)) {
                $this->tell($request, '"/'.Shown::name($entry->path).'" was left in the bin: something stands in its place.');

                return;
            }
            $folder->remove($entry->info);
            $this->tell($request, '"/'.Shown::name($entry->path).'" was taken out of the bin of the host, back to its place.');
            if ($request->state === 'open') {
                $request->update(['state' => 'answer']);
            }
        } catch (UnableToRestore $unable) {
            $this->tell($request, $unable->getMessage());
        } finally {
            TargetLock::free($source);
        }
    }

    private static function find(string $source, string $zone, string $file): ?BinEntry
    {
        $look = Hosts::original($source);
        foreach ($look === null ? [] : HostBin::of($look, $zone) as $entry) {
            if ($entry->file === $file) {
                return $entry;
            }
        }

        return null;
    }

    private function tell(RecoveryRequest $request, string $what): void
    {
        Cache::put(self::key($request->id), $what, 600);
        TrailEntry::add($what, $request, User::query()->find($this->by));
    }
}
