<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Models\Hold;
use App\Models\Run;
use App\Models\Workload;
use App\View\WaitingThing;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A machine that stands on a point: stood up by a run, until it is settled or dropped.
 *
 * @property int $id
 * @property int $run_id
 * @property int $hypervisor_id
 * @property string $machine its name there while it stands
 * @property CarbonImmutable|null $until by when somebody wants to have decided
 * @property int|null $hold_id
 * @property int|null $settled_by the run that settles it, or did
 * @property CarbonImmutable|null $settle_at when that is to begin
 * @property int|null $limit megabytes (10^6) a second at most, of settling
 * @property array<string, string>|null $storages disk => storage, of disks that come to another one then
 * @property string|null $ended SETTLED or DROPPED; null while it stands
 * @property CarbonImmutable|null $ended_at
 * @property CarbonImmutable $created_at
 * @property-read Run $run
 * @property-read Run|null $settling
 * @property-read HypervisorHost $hypervisor
 */
final class Standing extends Model
{
    public const SETTLED = 'settled';

    public const DROPPED = 'dropped';

    protected $table = 'machine_standings';

    protected $guarded = [];

    protected function casts(): array
    {
        return [
            'until' => 'immutable_datetime',
            'settle_at' => 'immutable_datetime',
            'ended_at' => 'immutable_datetime',
            'storages' => 'array',
        ];
    }

    /** @return BelongsTo<Run, $this> */
    public function run(): BelongsTo
    {
        return $this->belongsTo(Run::class);
    }

    /** @return BelongsTo<Run, $this> */
    public function settling(): BelongsTo
    {
        return $this->belongsTo(Run::class, 'settled_by');
    }

    /** @return BelongsTo<HypervisorHost, $this> */
    public function hypervisor(): BelongsTo
    {
        return $this->belongsTo(HypervisorHost::class);
    }

    public static function ofRun(Run $run): ?self
    {
        return self::query()->where('run_id', $run->id)->first();
    }

    /** @return Collection<int, self> those that stand, the one that must be decided about first the first */
    public static function now(): Collection
    {
        return self::query()
            ->whereNull('ended')
            ->with('run.workload', 'hypervisor', 'settling')
            ->orderByRaw('until IS NULL, until, id')
            ->get();
    }

    /** How many stand, of all that is known here, beside that of a run. */
    public static function others(?Run $run = null): int
    {
        return self::query()->whereNull('ended')->when($run !== null, fn ($all) => $all->where('run_id', '<>', $run?->id))->count();
    }

    /** From now on a machine stands on the run's point, whose set nothing removes meanwhile. */
    public static function begin(Run $run, HypervisorHost $host, string $machine, ?CarbonImmutable $until): self
    {
        $known = self::ofRun($run);
        if ($known !== null) {
            return $known;
        }
        $hold = $run->set_id === null ? null : Hold::query()->create([
            'set_id' => $run->set_id,
            'reason' => "$machine at {$host->name} stands on it (run {$run->id})",
        ]);

        return self::query()->create([
            'run_id' => $run->id, 'hypervisor_id' => $host->id, 'machine' => $machine, 'until' => $until, 'hold_id' => $hold?->id,
        ]);
    }

    /** It stands on nothing any more: nobody serves its disks, and its set may go. */
    public function end(string $how): void
    {
        ServedDisks::of($this->run)->end();
        Hold::query()->whereKey($this->hold_id)->whereNull('lifted_at')->update(['lifted_at' => now()]);
        $this->update(['ended' => $how, 'ended_at' => now()]);
    }

    public function isOverdue(): bool
    {
        return $this->ended === null && $this->until !== null && $this->until->isPast();
    }

    /** What waits for somebody as long as it stands. */
    public function waiting(): WaitingThing
    {
        $stands = "{$this->machine} at {$this->hypervisor->name} stands on its sets";
        [$weight, $what, $at] = match (true) {
            $this->isOverdue() => [80, "$stands, and should have been decided about", $this->until],
            ! ServedDisks::of($this->run)->isServed() => [95, "$stands, and nobody serves its disks", $this->created_at],
            $this->isBeingSettled() => [35, "$stands, and is being settled", $this->created_at],
            $this->settle_at !== null => [35, "$stands, and will be settled", $this->settle_at],
            Annex::around($this->run) !== null => [
                65,
                "{$this->machine} at {$this->hypervisor->name} stands in an annex: release it, or drop it",
                $this->until ?? $this->created_at,
            ],
            default => [65, "$stands: settle it, or drop it", $this->until ?? $this->created_at],
        };

        return new WaitingThing(
            $weight,
            $this->run->workload->name,
            $what,
            $at,
            'Decide',
            ($this->isBeingSettled() ? $this->settling : $this->run)?->page() ?? '/estate',
            "standing-{$this->id}",
        );
    }

    /** The workload of which a machine of this name stands at a hypervisor. */
    public static function workloadAt(HypervisorHost $host, string $machine): ?Workload
    {
        return self::query()
            ->where(['hypervisor_id' => $host->id, 'machine' => $machine])
            ->whereNull('ended')
            ->with('run.workload')
            ->first()?->run->workload;
    }

    /** Whether a run settles it now, or is about to. */
    public function isBeingSettled(): bool
    {
        return $this->ended === null && $this->settling !== null && ! $this->settling->isOver();
    }
}
