<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Order\PlacementOrder;
use App\Models\BackupSet;
use App\Models\Run;
use App\View\WaitingThing;
use App\Words;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A machine that was brought back, is off, and follows the newest point of its workload, until it is started.
 *
 * @property int $id
 * @property int $run_id that brought it back
 * @property int $hypervisor_id
 * @property string $machine
 * @property int $minutes between two steps
 * @property int|null $set_id that it is at
 * @property int|null $step_id the run of its last step
 * @property CarbonImmutable|null $stepped_at when it was looked for a newer point last
 * @property string|null $because why it cannot follow now
 * @property string|null $ended STARTED, GONE or DROPPED; null while it follows
 * @property CarbonImmutable|null $ended_at
 * @property-read Run $run
 * @property-read Run|null $step
 * @property-read BackupSet|null $set
 * @property-read HypervisorHost $hypervisor
 */
final class Following extends Model
{
    public const STARTED = 'started';

    public const GONE = 'gone';

    public const DROPPED = 'dropped';

    /** So many times as far behind as it may be, and somebody has to see to it. */
    private const FAR = 3;

    protected $table = 'machine_followings';

    protected $guarded = [];

    protected function casts(): array
    {
        return ['stepped_at' => 'immutable_datetime', 'ended_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Run, $this> */
    public function run(): BelongsTo
    {
        return $this->belongsTo(Run::class);
    }

    /** @return BelongsTo<Run, $this> */
    public function step(): BelongsTo
    {
        return $this->belongsTo(Run::class, 'step_id');
    }

    /** @return BelongsTo<BackupSet, $this> */
    public function set(): BelongsTo
    {
        return $this->belongsTo(BackupSet::class, 'set_id');
    }

    /** @return BelongsTo<HypervisorHost, $this> */
    public function hypervisor(): BelongsTo
    {
        return $this->belongsTo(HypervisorHost::class);
    }

    /** @return Collection<int, self> those that follow */
    public static function now(): Collection
    {
        return self::query()->whereNull('ended')->with('run.workload', 'hypervisor', 'set', 'step')->orderBy('id')->get();
    }

    /** That of a run, while it follows. */
    public static function active(Run $run): ?self
    {
        return self::query()->where('run_id', $run->id)->whereNull('ended')->first();
    }

    /** From now on what a run brought back follows. */
    public static function begin(Run $run, PlacementOrder $order): void
    {
        self::query()->firstOrCreate(['run_id' => $run->id], [
            'hypervisor_id' => $order->host()->id,
            'machine' => $order->machine,
            'minutes' => (int) $order->follow,
            'set_id' => $run->set_id,
            'stepped_at' => now(),
        ]);
    }

    public function end(string $how): void
    {
        $this->update(['ended' => $how, 'ended_at' => now()]);
    }

    /** Seconds since the moment that it is at; null where that set is gone. */
    public function lag(): ?int
    {
        return $this->set === null ? null : (int) abs(now()->diffInSeconds($this->set->captured_at));
    }

    /** What waits for somebody, as long as it follows. */
    public function waiting(): WaitingThing
    {
        $lag = $this->lag();
        $isFar = $lag === null || $lag > self::FAR * 60 * $this->minutes;
        $about = "{$this->machine} at {$this->hypervisor->name} follows".
            ($lag === null ? '; how far it is behind is not known' : ', '.Words::duration($lag).' behind');

        return new WaitingThing(
            $this->because !== null ? 70 : ($isFar ? 40 : 20),
            $this->run->workload->name,
            $about.($this->because === null ? '' : ", and cannot go on: {$this->because}"),
            $this->stepped_at,
            'Look at it',
            $this->run->page(),
            "following-{$this->id}",
        );
    }
}
