<?php

declare(strict_types=1);

namespace App\Care;

use App\Jobs\MakeSet;
use App\Kinds\Kinds;
use App\Models\Schedule;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;
use stdClass;

/** Hosts that are there, and of which no workload is protected. */
final class NewSources
{
    /**
     * Looks at the hosts, which may take as long as they do to answer.
     *
     * @return list<UnprotectedSource> by name
     */
    public function found(): array
    {
        $rules = self::groupsWithRule();
        $found = [];
        foreach (Kinds::all() as $kind) {
            foreach ($kind->newSources() as $source) {
                $found[] = new UnprotectedSource(
                    $source->name,
                    $source->group,
                    $source->place,
                    $kind->name(),
                    $source->workload,
                    isset($rules[$source->group]),
                );
            }
        }

        return self::stillNew($found);
    }

    /**
     * Keeps what was found for the pages.
     *
     * @param  list<UnprotectedSource>  $found
     */
    public static function keep(array $found): void
    {
        $rows = array_map(fn (UnprotectedSource $one): array => [
            'name' => $one->name,
            'group' => $one->group,
            'source' => $one->source,
            'kind' => $one->kind,
            'workload' => json_encode($one->workload, JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE),
        ], $found);
        DB::transaction(function () use ($rows): void {
            DB::table('found_sources')->delete();
            foreach (array_chunk($rows, 500) as $chunk) {
                DB::table('found_sources')->insert($chunk);
            }
        });
    }

    /**
     * As it was when the clock looked last.
     *
     * @return list<UnprotectedSource> by name
     */
    public static function kept(): array
    {
        $rules = self::groupsWithRule();
        $rows = DB::table('found_sources')->orderBy('name')->get();

        return self::stillNew(
            array_values(
                $rows
                    ->map(fn (stdClass $row): UnprotectedSource => new UnprotectedSource(
                        (string) $row->name,
                        (string) $row->group,
                        (string) $row->source,
                        (string) $row->kind,
                        (array) json_decode($row->workload, true),
                        isset($rules[(string) $row->group]),
                    ))
                    ->all(),
            ),
        );
    }

    /** @return array<string, true> groups whose rule takes up what is new */
    private static function groupsWithRule(): array
    {
        return array_fill_keys(Schedule::query()->whereNotNull('group')->where('on', true)->pluck('group')->all(), true);
    }

    /**
     * @param  list<UnprotectedSource>  $found
     * @return list<UnprotectedSource> those of which no workload has the name
     */
    private static function stillNew(array $found): array
    {
        $names = array_fill_keys(Workload::query()->pluck('name')->all(), true);

        return array_values(array_filter($found, fn (UnprotectedSource $one): bool => ! isset($names[$one->name])));
    }

    /** Looks, protects those whose group has a rule, and keeps the others for the pages. */
    public function takeUpByRule(): void
    {
        $found = $this->found();
        foreach ($found as $source) {
            if ($source->hasRule) {
                $this->takeUp($source, null);
            }
        }
        self::keep($found); // those that were taken up have a workload now
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

    private function takeUp(UnprotectedSource $source, ?User $by): void
    {
        $rule = Schedule::query()->with('store')->where('group', $source->group)->where('on', true)->first();
        $workload = Workload::query()->firstOrCreate(
            ['name' => $source->name],
            [
                'kind' => $source->kind,
                'group' => $source->group,
                'zone' => $rule->zone ?? 'UTC',
                'site' => $rule->store->site ?? 'boathouse',
            ] + $source->workload,
        );
        Kinds::named($source->kind)->tookUp($workload, $source->source);
        TrailEntry::add(
            "The new source {$source->name} was taken up".
                ($rule === null ? '; its group has no rule, so it has no schedule.' : " by the rule of the group {$source->group}."),
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
