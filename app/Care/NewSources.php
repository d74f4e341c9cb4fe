<?php

declare(strict_types=1);

namespace App\Care;

use App\Jobs\MakeSet;
use App\Kinds\Kinds;
use App\Models\Schedule;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use InvalidArgumentException;

/** Hosts that are there, and of which no workload is protected. */
final class NewSources
{
    /**
     * @return list<array{name: string, group: string, source: string, kind: string, workload: array<string, mixed>, rule: bool}> by name
     */
    public function found(): array
    {
        $names = Workload::query()->pluck('name')->all();
        $rules = Schedule::query()->whereNotNull('group')->where('on', true)->pluck('group')->all();
        $found = [];
        foreach (Kinds::all() as $kind) {
            foreach ($kind->newSources() as $source) {
                if (! in_array($source->name, $names, true)) {
                    $found[] = [
                        'name' => $source->name,
                        'group' => $source->group,
                        'source' => $source->place,
                        'kind' => $kind->name(),
                        'workload' => $source->workload,
                        'rule' => in_array($source->group, $rules, true),
                    ];
                }
            }
        }

        return $found;
    }

    /** Protects those whose group has a rule. */
    public function takeUpByRule(): void
    {
        foreach ($this->found() as $source) {
            if ($source['rule']) {
                $this->takeUp($source, null);
            }
        }
    }

    /**
     * @param  list<string>  $names
     * @return int how many were taken up
     *
     * @throws InvalidArgumentException if one of them is not there any more
     */
    public function takeUpAll(array $names, ?User $by): int
    {
        $found = array_column($this->found(), null, 'name');
        foreach ($names as $name) {
            $this->takeUp($found[$name] ?? throw new InvalidArgumentException("There is no unprotected source \"$name\"."), $by);
        }

        return count($names);
    }

    /** @param  array{name: string, group: string, source: string, kind: string, workload: array<string, mixed>, rule: bool}  $source */
    private function takeUp(array $source, ?User $by): void
    {
        $rule = Schedule::query()->with('store')->where('group', $source['group'])->where('on', true)->first();
        $workload = Workload::query()->firstOrCreate(
            ['name' => $source['name']],
            [
                'kind' => $source['kind'],
                'group' => $source['group'],
                'zone' => $rule->zone ?? 'UTC',
                'site' => $rule->store->site ?? 'boathouse',
            ] + $source['workload'],
        );
        TrailEntry::add(
            "The new source {$source['name']} was taken up".
                ($rule === null ? '; its group has no rule, so it has no schedule.' : " by the rule of the group {$source['group']}."),
            null,
            $by,
        );
        if ($rule === null) {
            return;
        }
        $schedule = Schedule::query()->updateOrCreate(
            ['workload_id' => $workload->id],
            [
                'store_id' => $rule->store_id,
                'times' => $rule->times,
                'zone' => $rule->zone,
                'window_from' => $rule->window_from,
                'window_until' => $rule->window_until,
                'copy_to' => $rule->copy_to,
                'copy_from' => $rule->copy_from,
                'before' => $rule->before,
                'after' => $rule->after,
                'limit_s' => $rule->limit_s,
                'considered_at' => now(),
            ],
        );
        MakeSet::begin($workload, $rule->store, 'full', 'it is new', $by, $schedule);
    }
}
