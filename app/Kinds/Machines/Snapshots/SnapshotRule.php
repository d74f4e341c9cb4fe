<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Snapshots;

use App\Models\Workload;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * How often a machine is kept as it is at its own storage, and how many of those stay.
 *
 * @property int $id
 * @property int $workload_id
 * @property int $minutes between two
 * @property int $keep
 * @property list<string>|null $command run once one is ready: arguments, no shell's
 * @property string|null $failure why the last could not be taken
 * @property-read Workload $workload
 */
final class SnapshotRule extends Model
{
    public const MOST_MINUTES = 1440;

    /** Each makes what is written to a disk slower, and holds what was written over. */
    public const MOST_KEPT = 50;

    protected $table = 'machine_snapshot_rules';

    protected $guarded = [];

    protected function casts(): array
    {
        return ['command' => 'array'];
    }

    /** @return BelongsTo<Workload, $this> */
    public function workload(): BelongsTo
    {
        return $this->belongsTo(Workload::class);
    }

    public static function of(Workload $workload): ?self
    {
        return self::query()->where('workload_id', $workload->id)->first();
    }

    /**
     * How far back they reach: right after one was taken, and right before the next is.
     *
     * @return array{int, int} minutes
     */
    public function reach(): array
    {
        return [($this->keep - 1) * $this->minutes, $this->keep * $this->minutes];
    }
}
