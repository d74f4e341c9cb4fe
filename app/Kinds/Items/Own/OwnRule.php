<?php

declare(strict_types=1);

namespace App\Kinds\Items\Own;

use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\User;
use App\Models\Workload;
use App\Words;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use InvalidArgumentException;

/**
 * That people look for and bring back what is their own of a workload, without an operator: how much of it in one order.
 *
 * @property int $workload_id
 * @property int $most_items
 * @property int $most_mb
 * @property-read Workload $workload
 */
final class OwnRule extends Model
{
    public const ITEMS = 500;

    public const MB = 500;

    /** More is no errand of one person any more. */
    private const MOST = 100_000;

    protected $table = 'own_item_rules';

    protected $primaryKey = 'workload_id';

    public $incrementing = false;

    protected $guarded = [];

    /** @return BelongsTo<Workload, $this> */
    public function workload(): BelongsTo
    {
        return $this->belongsTo(Workload::class);
    }

    public static function of(Workload $workload): ?self
    {
        return self::query()->find($workload->id);
    }

    /** @throws InvalidArgumentException */
    public static function settle(Workload $workload, int $items, int $mb, ?User $by): self
    {
        if ($items < 1 || $items > self::MOST || $mb < 1 || $mb > self::MOST) {
            $most = number_format(self::MOST);
            throw new InvalidArgumentException("An order of one’s own holds from 1 to $most items, and as many MB.");
        }
        $rule = self::query()->updateOrCreate(['workload_id' => $workload->id], ['most_items' => $items, 'most_mb' => $mb]);
        $what = "People bring back what is their own of {$workload->name} themselves: {$rule->words()}.";
        TrailEntry::add($what, null, $by, sort: TrailSort::Rule, workload: $workload);

        return $rule;
    }

    public static function end(Workload $workload, ?User $by): void
    {
        if (self::query()->whereKey($workload->id)->delete() > 0) {
            $what = "People do not bring back what is their own of {$workload->name} themselves any more.";
            TrailEntry::add($what, null, $by, sort: TrailSort::Rule, workload: $workload);
        }
    }

    public function words(): string
    {
        return 'at most '.Words::count($this->most_items, 'item').' and '.number_format($this->most_mb).' MB at once';
    }

    public function bytes(): int
    {
        return $this->most_mb * 1_000_000;
    }
}
