<?php

declare(strict_types=1);

namespace App\Care;

use App\Kinds\Kinds;
use App\Models\BackupSet;
use App\Models\Hold;
use App\Models\RecoveryRequest;
use App\Models\Run;
use App\Models\Store;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Models\Workload;
use App\Sets\CannotRegister;
use App\Sets\CopyOn;
use App\Sets\Points;
use DateTimeInterface;
use Illuminate\Database\Eloquent\Collection;
use InvalidArgumentException;

/** Keeps sets, and all they rest on, from expiring. */
final class Holds
{
    /**
     * Holds a set. What lies only in archives that are not ours is copied to a store of ours first, since nobody asks us
     * before those go.
     *
     * @return array{Hold, int} the hold, and how many sets were copied for it
     *
     * @throws CannotRegister if it cannot be held
     */
    public function put(BackupSet $set, string $reason, ?DateTimeInterface $until, ?User $by): array
    {
        if (trim($reason) === '') {
            throw new InvalidArgumentException('Say why it is to be held: the reason is kept with it.');
        }
        if ($until !== null && $until <= now()) {
            throw new InvalidArgumentException('The end of a hold lies ahead.');
        }
        $copied = 0;
        foreach ($this->chain($set) as $needed) {
            $copied += $this->secure($needed) ? 1 : 0;
        }
        $hold = Hold::query()->create([
            'set_id' => $set->id,
            'reason' => mb_substr(trim($reason), 0, 500),
            'until' => $until,
            'user_id' => $by?->id,
        ]);
        TrailEntry::add("{$set->name} is held: $reason", null, $by, sort: TrailSort::Rule);

        return [$hold, $copied];
    }

    public function lift(Hold $hold, ?User $by): void
    {
        $hold->update(['lifted_at' => now()]);
        TrailEntry::add("The hold of {$hold->set->name} was lifted.", null, $by, sort: TrailSort::Rule);
    }

    /** Puts holds on what open requests use, and lifts those of requests that use something else now, or are closed. */
    public function followRequests(Workload $workload): void
    {
        if (! Kinds::isInstalled($workload->kind)) {
            return; // what they use cannot be told: what is held stays held
        }
        $uses = [];
        foreach (RecoveryRequest::query()->where('workload_id', $workload->id)->where('state', '<>', 'closed')->get() as $request) {
            foreach (Kinds::of($workload)->sheet($request)->sets() as $set) {
                $uses["{$request->id}:$set"] = [$request->id, $set];
            }
        }
        foreach (Hold::ofWorkload($workload)->whereNotNull('request_id')->get() as $hold) {
            $key = "{$hold->request_id}:{$hold->set_id}";
            isset($uses[$key]) ? ($uses[$key] = null) : $hold->update(['lifted_at' => now()]);
        }
        foreach (array_filter($uses) as [$request, $set]) {
            Hold::query()->create(['set_id' => $set, 'request_id' => $request, 'reason' => "request $request uses it"]);
        }
    }

    /** @return array<int, string> set id => why it is held */
    public function ofWorkload(Workload $workload): array
    {
        $held = [];
        foreach (Hold::ofWorkload($workload)->orderBy('id')->get() as $hold) {
            $held[$hold->set_id] = $hold->reason.($hold->until === null ? '' : ' (until '.$hold->until->format('j M Y').')');
        }
        foreach (
            Run::query()
                ->where('workload_id', $workload->id)
                ->whereNotNull('set_id')
                ->whereIn('state', ['queued', 'running', 'waiting'])
                ->get(['id', 'set_id']) as $run
        ) {
            $held[$run->set_id] ??= "run {$run->id} is at work with it";
        }
        foreach (
            Run::query()
                ->where('workload_id', $workload->id)
                ->whereNotNull('set_id')
                ->where('plan->in_place', true)
                ->get(['id', 'set_id']) as $run
        ) {
            $held[$run->set_id] ??= "run {$run->id} can be put back";
        }

        return $held;
    }

    /** @return list<BackupSet> the set and all below it */
    private function chain(BackupSet $set): array
    {
        $points = new Points($set->workload);
        $chain = $points->chain($set->name);

        return $chain === [] ? [$set] : array_map($points->model(...), $chain);
    }

    /** @return bool whether it was copied now */
    private function secure(BackupSet $set): bool
    {
        /** @var Collection<int, \App\Models\Copy> $copies */
        $copies = $set->copies()->with('store')->get();
        if ($copies->contains(fn ($copy): bool => ! $copy->store->read_only && CopyOn::isThere($set, $copy->store))) {
            return false;
        }
        $site = $copies->first()?->store->site;
        $ours =
            Store::query()
                ->where('read_only', false)
                ->where('kind', 'folder')
                ->orderByRaw('site <> ?', [(string) $site])
                ->orderBy('id')
                ->first() ??
            throw CannotRegister::because(
                "{$set->name} can't be held: its archive is not ours to keep, and there is no store of ours to copy it to.",
            );
        CopyOn::make($set->load('copies.store'), $ours);

        return true;
    }
}
