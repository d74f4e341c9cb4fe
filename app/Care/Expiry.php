<?php

declare(strict_types=1);

namespace App\Care;

use App\Instance;
use App\Kinds\KindIsMissing;
use App\Kinds\Kinds;
use App\Models\Copy;
use App\Models\Hold;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use App\NamedLock;
use App\Sets\CannotRegister;
use App\Sets\CopyOutline;
use App\Sets\Points;
use App\Sets\SetFiles;
use App\Sets\SetOutline;
use App\Sets\SidecarFiles;
use App\Stores\UnableToStore;
use App\Trees\Catalog\CatalogReader;
use App\Trees\Catalog\CatalogSplicer;
use App\Trees\Catalog\DigestList;
use App\Trees\Places\BridgeSearch;
use DateTimeZone;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Catalog\PlaceIndex;
use Kaiseki\Core\Instant;
use Kaiseki\Core\Retention\ExpiryPlan;
use Kaiseki\Core\Retention\KeepRule;
use Kaiseki\Core\Retention\KeptSet;
use stdClass;

/**
 * What a workload's rules no longer keep: as a plan to be read, and its deleting. What is to go is written down first, and
 * each copy is one step that can be repeated, so that a killed one is gone on with.
 */
final class Expiry
{
    private Points $points;

    public ExpiryPlan $plan;

    /** @var array<string, KeepRule|null> store => rule */
    private array $rules = [];

    public function __construct(public readonly Workload $workload)
    {
        $this->reckon();
    }

    /** What is there, what is held and what the rules say, as it is now. */
    private function reckon(): void
    {
        (new Holds)->followRequests($this->workload);
        $this->points = new Points($this->workload);
        $this->rules = $this->rulesByStore();
        $this->plan = $this->guarded();
    }

    public function hasRules(): bool
    {
        return array_filter($this->rules) !== [];
    }

    /** @return list<ExpiringCopy> in the order of deleting */
    public function lines(): array
    {
        $lines = [];
        foreach ($this->plan->expiring as [$name, $store]) {
            $set = $this->points->set($name);
            foreach ($set->copies ?? [] as $copy) {
                if ($set !== null && $copy->store->name === $store) {
                    $bytes = $copy->store->kind === 'tape' ? 0 : $copy->bytes;
                    $lines[] = new ExpiringCopy($name, $store, $bytes, $set->level->words(), $set->capturedAt());
                }
            }
        }

        return $lines;
    }

    /** Changes whenever the plan does: what is confirmed must be what was shown. */
    public function fingerprint(): string
    {
        return hash('sha256', json_encode($this->plan->expiring, JSON_THROW_ON_ERROR));
    }

    public function bytes(): int
    {
        return (int) array_sum(array_column($this->lines(), 'bytes'));
    }

    /** Whether nothing of the workload would be left. */
    public function leavesNothing(): bool
    {
        return $this->points->sets !== [] && count($this->plan->goneSets()) === count($this->points->sets);
    }

    /**
     * Deletes what the plan names.
     *
     * @param  bool  $everything  said in so many words, where nothing would be left
     *
     * @throws CannotRegister
     */
    public function carryOut(?User $by, bool $everything = false): Expired
    {
        if (! Kinds::isInstalled($this->workload->kind)) {
            throw CannotRegister::because('Nothing is deleted of it: '.KindIsMissing::words($this->workload->kind).'.');
        }
        $lock = "expire {$this->workload->id}";
        if (! NamedLock::take($lock)) {
            throw CannotRegister::because("Sets of {$this->workload->name} are being deleted already.");
        }
        try {
            $this->mustBeAsShown($everything);
            $before = $this->goOn();
            if ($before->copies + $before->sets > 0) {
                return $before; // a killed one is at its end now; what the rules say beyond that is a plan to be read again
            }
            DB::transaction(fn () => $this->writeDown($by));
            $done = $this->goOn();
        } finally {
            NamedLock::free($lock);
        }
        TrailEntry::add("Of {$this->workload->name} {$done->copies} copies expired, and with them {$done->sets} sets.", null, $by);

        return $done;
    }

    /**
     * Reckons it once more, holds included: what somebody was shown never decides what is deleted.
     *
     * @throws CannotRegister
     */
    private function mustBeAsShown(bool $everything): void
    {
        $shown = $this->fingerprint();
        $this->reckon();
        if ($this->fingerprint() !== $shown) {
            throw CannotRegister::because('What would be deleted changed since it was shown. Read it again, then confirm.');
        }
        if ($this->leavesNothing() && ! $everything) {
            throw CannotRegister::because(
                "That would delete every set of {$this->workload->name}. If that is meant, say so in so many words.",
            );
        }
    }

    private function writeDown(?User $by): void
    {
        $now = now()->format('Y-m-d H:i:s.u');
        DB::table('expiries')->where('workload_id', $this->workload->id)->whereNull('done_at')->delete(); // held since
        foreach ($this->plan->expiring as $turn => [$name, $store]) {
            foreach ($this->copies($name, $store) as $copy) {
                DB::table('expiries')->insert([
                    'workload_id' => $this->workload->id,
                    'copy_id' => $copy->id,
                    'set_name' => $name,
                    'store_name' => $store,
                    'bytes' => $copy->bytes,
                    'turn' => $turn,
                    'planned_at' => $now,
                    'user_id' => $by?->id,
                    'created_at' => now(),
                    'updated_at' => now(),
                ]);
            }
        }
    }

    /** Deletes what was written down, also what a killed process left. */
    public function goOn(): Expired
    {
        $done = new Expired;
        foreach (DB::table('expiries')->where('workload_id', $this->workload->id)->whereNull('done_at')->orderBy('turn')->get() as $row) {
            $copy = Copy::query()->with('set', 'store')->find($row->copy_id);
            try {
                if ($copy !== null && Hold::ofWorkload($this->workload)->where('set_id', $copy->set_id)->exists()) {
                    throw UnableToStore::because('it is held since the plan was made');
                }
                if ($copy !== null) {
                    $done->bytes += $this->delete($copy);
                    $done->copies++;
                }
                $done->sets += $this->forgetIfGone((string) $row->set_name) ? 1 : 0;
                DB::table('expiries')
                    ->where('id', $row->id)
                    ->update(['done_at' => now(), 'failure' => null]);
            } catch (UnableToStore $unable) {
                $because = "{$row->set_name} on {$row->store_name}: {$unable->getMessage()}";
                DB::table('expiries')
                    ->where('id', $row->id)
                    ->update(['failure' => mb_substr($because, 0, 500)]);
                $done->failed[] = $because;
            }
        }
        foreach ($this->workload->sets()->doesntHave('copies')->pluck('name') as $name) {
            $done->sets += $this->forgetIfGone($name) ? 1 : 0; // killed before that
        }

        return $done;
    }

    /** @return int bytes that this frees */
    private function delete(Copy $copy): int
    {
        $store = $this->points->stores->of($copy->store);
        $silence = $store->silence(true);
        if ($silence !== null) {
            throw UnableToStore::because($silence);
        }
        $store->delete($copy->path);
        foreach ($copy->has_beside ? SidecarFiles::ENDINGS : [] as $ending) {
            $store->delete(SidecarFiles::path($copy, $copy->set, $ending));
        }
        DB::transaction(function () use ($copy): void {
            DB::delete('DELETE FROM damaged_contents WHERE copy_id = ?', [$copy->id]);
            $copy->delete();
        });

        return $copy->store->kind === 'tape' ? 0 : $copy->bytes;
    }

    /** A set without a copy leaves the catalog: its spans go to its neighbours. */
    private function forgetIfGone(string $name): bool
    {
        $set = $this->workload->sets()->where('name', $name)->first();
        if ($set === null || $set->copies()->exists()) {
            return false;
        }
        $reader = new CatalogReader;
        [$before, $next] = [$set->neighbour(false), $set->neighbour(true)];
        DB::transaction(function () use ($set, $before, $next, $reader): void {
            (new CatalogSplicer)->remove(
                $set,
                $reader->tree($set),
                $before === null ? null : $reader->tree($before),
                $next,
                $next === null ? null : $reader->tree($next),
            );
            // Doubt outlives the set at which it arose, as the content does; what somebody found good stays so.
            $cleared = DB::scalar('SELECT verdict FROM verdicts WHERE set_id = ? ORDER BY id DESC LIMIT 1', [$set->id]) === 'good';
            $next === null || $cleared
                ? DB::delete('DELETE FROM doubts WHERE set_id = ?', [$set->id])
                : DB::update('UPDATE doubts SET set_id = ? WHERE set_id = ?', [$next->id, $set->id]);
            DB::update('UPDATE requests SET set_id = NULL WHERE set_id = ?', [$set->id]);
            DB::update('UPDATE runs SET set_id = NULL WHERE set_id = ?', [$set->id]);
            $set->delete();
        });
        $pieces = glob(Instance::path("index/{$set->id}.*pieces")) ?: [];
        foreach ([SetFiles::placeIndex($set->id), ...$pieces, SetFiles::sourceState($set)] as $file) {
            @unlink($file);
        }

        return true;
    }

    /** @return list<Copy> of all parts of a set that a store has */
    private function copies(string $set, string $store): array
    {
        $there = array_filter($this->points->set($set)->copies ?? [], fn (CopyOutline $copy): bool => $copy->store->name === $store);

        return array_values(
            Copy::query()->whereIn('id', array_map(fn (CopyOutline $copy): int => $copy->id, $there))->orderBy('part')->get()->all(),
        );
    }

    /** The rules decide by sets; what a kept point needs from an expiring set by content, since its own chain is damaged, stays too. */
    private function guarded(): ExpiryPlan
    {
        $held = (new Holds)->ofWorkload($this->workload);
        foreach ($this->points->sets as $set) {
            if ($set->isScattered()) {
                $held[$set->id] ??= 'its parts lie on several stores, and are a set only together';
            }
        }
        while (true) {
            $plan = ExpiryPlan::of($this->keptSets($held), $this->rules, new DateTimeZone($this->workload->zone));
            $needed = $plan->expiring === [] ? [] : $this->neededByContent($plan);
            if (array_diff_key($needed, $held) === []) {
                return $plan;
            }
            $held += $needed;
        }
    }

    /** @return array<int, string> ids of sets that go, though a point that stays needs what only they hold => why they stay */
    private function neededByContent(ExpiryPlan $plan): array
    {
        $unread = array_filter($this->points->sets, fn (SetOutline $set): bool => ! $set->isReadable());
        $unreadable = array_values(array_column($unread, 'id'));
        $going = $this->going($plan);
        $search = new BridgeSearch($this->points->sets);
        $lost = array_flip($search->lostDigests($unreadable));
        $wouldBeLost = array_filter($search->lostDigests([...$unreadable, ...$going]), fn (string $one): bool => ! isset($lost[$one]));
        $needed = [];
        foreach (array_chunk($wouldBeLost, 500) as $chunk) {
            $digests = $this->ofStaying($plan, $chunk);
            foreach ($digests === [] ? [] : $going as $id) {
                $index = PlaceIndex::open(SetFiles::placeIndex($id));
                foreach (array_keys($digests) as $digest) {
                    if ($index->find((string) $digest) !== null) {
                        $needed[$id] = 'it holds what a point that stays needs, since the set that should hold it cannot be read';
                        unset($digests[$digest]);
                    }
                }
            }
        }

        return $needed;
    }

    /** @return list<int> sets of which no copy that can be read would stay */
    private function going(ExpiryPlan $plan): array
    {
        $going = [];
        foreach ($this->points->sets as $set) {
            $stays = fn (CopyOutline $copy): bool => $copy->state->isReadable() && ! $plan->expires($set->name, $copy->store->name);
            $staying = $set->parts === [] || ! $set->isScattered() ? array_filter($set->copies, $stays) : $set->copies;
            if ($staying === [] && $set->isReadable()) {
                $going[] = $set->id;
            }
        }

        return $going;
    }

    /**
     * @param  list<string>  $digests
     * @return array<array-key, true> those of them that a point needs which stays
     */
    private function ofStaying(ExpiryPlan $plan, array $digests): array
    {
        $rows = DB::select(
            'SELECT DISTINCT v.digest, s.name FROM versions v JOIN sets s ON s.history_id = v.history_id AND s.instant >= '.
                'v.first AND s.instant < v.until WHERE s.workload_id = ? AND v.digest IN ('.DigestList::sql($digests).')',
            [$this->workload->id],
        );
        $staying = array_filter($rows, fn (stdClass $row): bool => isset($plan->staying[$row->name]));

        return array_fill_keys(array_column($staying, 'digest'), true);
    }

    /**
     * @param  array<int, string>  $held
     * @return list<KeptSet>
     */
    private function keptSets(array $held): array
    {
        $sets = [];
        $lastFull = [];
        foreach ($this->points->sets as $set) {
            $copies = [];
            foreach ($set->copies as $copy) {
                $copies[$copy->store->name] = $set->isReadableOn($copy->store->name);
            }
            $base = $this->points->graph->baseOf($set->name);
            $needs = match (true) {
                $set->level->needsNoBase() => [],
                $base !== null => [$base],
                default => $lastFull[$set->history] ?? [], // what it rests on is not known: all since the last full may be it
            };
            $lastFull[$set->history] = $set->level->isFull() ? [$set->name] : [...$lastFull[$set->history] ?? [], $set->name];
            $sets[] = new KeptSet($set->name, Instant::ofMicroseconds($set->instant), $needs, $copies, $held[$set->id] ?? null);
        }

        return $sets;
    }

    /** @return array<string, KeepRule|null> */
    private function rulesByStore(): array
    {
        $rules = DB::table('keep_rules')->where('workload_id', $this->workload->id)->pluck('rule', 'store_id');
        $byStore = [];
        foreach ($this->points->stores->all() as $store) {
            $rule = $rules[$store->id] ?? ($rules[''] ?? null);
            $byStore[$store->name] = $store->read_only || $rule === null ? null : KeepRule::parse($rule);
        }

        return $byStore;
    }
}
