<?php

declare(strict_types=1);

namespace App\Care;

use App\Models\Store;
use App\Models\Workload;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;
use InvalidArgumentException;
use Kaiseki\Core\Retention\KeepRule;
use stdClass;

/** The rules that say what of a workload is kept. */
final class KeepRules
{
    /**
     * @param  Store|null  $store  null: for all that have no rule of their own
     * @param  string  $text  the rule; none to keep everything
     * @param  bool  $everything  that a rule keeps nothing is meant
     *
     * @throws InvalidArgumentException
     */
    public static function settle(Workload $workload, ?Store $store, string $text, bool $everyNight, bool $everything): void
    {
        $rule = self::refuseUnfit($text, $everything);
        DB::transaction(function () use ($workload, $store, $text, $everyNight, $rule): void {
            DB::table('keep_rules')->where('workload_id', $workload->id)->where('store_id', $store?->id)->delete();
            if ($text !== 'none') {
                DB::table('keep_rules')->insert([
                    'workload_id' => $workload->id,
                    'store_id' => $store?->id,
                    'rule' => $rule->words(),
                    'every_night' => $everyNight,
                    'created_at' => now(),
                    'updated_at' => now(),
                ]);
            }
        });
    }

    /** @throws InvalidArgumentException if it is no rule, or keeps nothing and that was not said */
    public static function refuseUnfit(string $text, bool $everything): KeepRule
    {
        $rule = KeepRule::parse($text === 'none' ? '' : $text);
        if ($text !== 'none' && $rule->keepsNothing() && ! $everything) {
            throw new InvalidArgumentException(
                'That rule keeps nothing, so that everything would be deleted. '.'If that is meant, say so in so many words.',
            );
        }

        return $rule;
    }

    /** @return Collection<int, stdClass> store (null for all others), rule, every_night */
    public static function of(Workload $workload): Collection
    {
        return DB::table('keep_rules')
            ->leftJoin('stores', 'stores.id', '=', 'keep_rules.store_id')
            ->where('workload_id', $workload->id)
            ->orderBy('stores.name')
            ->get(['stores.name as store', 'rule', 'every_night']);
    }
}
