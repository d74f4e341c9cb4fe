<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Annex;

use App\Instance;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Order\PlacementOrder;
use App\Models\Run;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Packets\CaptureReading;
use Kaiseki\Core\Packets\UnreadableCapture;
use Kaiseki\Core\Packets\Wanted;
use Kaiseki\Core\UnableToWrite;

/**
 * A network apart, in which a machine that a run stood up is looked at and changed before it is released.
 *
 * @property int $id
 * @property int $run_id
 * @property int $hypervisor_id
 * @property string $name of the annex there, which several may have in common
 * @property list<array<string, mixed>>|null $wanted what it wanted of others: the fields of Wanted
 * @property int $beyond packets for which there was no room in the record
 * @property string|null $unread why the record cannot be read
 * @property CarbonImmutable|null $looked_at
 * @property string|null $ended RELEASED or DROPPED; null while it is there
 * @property CarbonImmutable|null $ended_at
 * @property-read Run $run
 * @property-read HypervisorHost $hypervisor
 */
final class Annex extends Model
{
    public const RELEASED = 'released';

    public const DROPPED = 'dropped';

    private const FOLDER = 'annexes';

    private const MOST_BYTES = 32 << 20;

    protected $table = 'machine_annexes';

    protected $guarded = [];

    protected function casts(): array
    {
        return ['wanted' => 'array', 'looked_at' => 'immutable_datetime', 'ended_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Run, $this> */
    public function run(): BelongsTo
    {
        return $this->belongsTo(Run::class);
    }

    /** @return BelongsTo<HypervisorHost, $this> */
    public function hypervisor(): BelongsTo
    {
        return $this->belongsTo(HypervisorHost::class);
    }

    /** @return HasMany<AnnexChange, $this> the first first */
    public function changes(): HasMany
    {
        return $this->hasMany(AnnexChange::class)->orderBy('id');
    }

    public static function ofRun(Run $run): ?self
    {
        return self::query()->where('run_id', $run->id)->first();
    }

    /** The one that a machine is in that a run stood up; null if it is in none any more. */
    public static function around(Run $run): ?self
    {
        return self::query()->where('run_id', $run->id)->whereNull('ended')->first();
    }

    /** What a run's annex is called at its hypervisor. */
    public static function nameFor(Run $run): string
    {
        return "annex-run-{$run->id}";
    }

    /**
     * Opens one for the machine that a run stands up, or has it join another; one that is there already is taken.
     *
     * @param  int|null  $joins  the run in whose annex it is
     *
     * @throws CannotBring if that is closed
     */
    public static function open(Run $run, HypervisorHost $host, Hypervisor $hypervisor, ?int $joins = null): self
    {
        $annex = self::ofRun($run);
        if ($annex === null) {
            $joined = $joins === null ? null : self::query()->where('run_id', $joins)->whereNull('ended')->value('name');
            $joins === null || $joined !== null || throw CannotBring::because("What run $joins stood up is in no annex any more.");
            $name = $joined ?? self::nameFor($run);
            $annex = self::query()->create(['run_id' => $run->id, 'hypervisor_id' => $host->id, 'name' => $name]);
        }
        in_array($annex->name, $hypervisor->room()->annexes, true) || $hypervisor->openAnnex($annex->name);

        return $annex;
    }

    /** Takes what was written down since, and closes it, if no other machine is in it. */
    public function close(Hypervisor $hypervisor, string $how): void
    {
        if (in_array($this->name, $hypervisor->room()->annexes, true)) {
            $this->look($hypervisor);
            $this->others()->isEmpty() && $hypervisor->closeAnnex($this->name);
        }
        $this->update(['ended' => $how, 'ended_at' => now()]);
    }

    /** @return Collection<int, self> those of the other machines that are in the same */
    public function others(): Collection
    {
        return self::query()
            ->where(['hypervisor_id' => $this->hypervisor_id, 'name' => $this->name])
            ->whereNull('ended')
            ->whereKeyNot($this->id)
            ->with('run.workload')
            ->orderBy('id')
            ->get();
    }

    /** @return Collection<int, self> those at a hypervisor that another machine can join, of each machine in one */
    public static function openAt(HypervisorHost $host): Collection
    {
        return self::query()->where('hypervisor_id', $host->id)->whereNull('ended')->with('run.workload')->orderBy('id')->get();
    }

    /** @return array<int, list<string>> run => addresses of the cards of its machine, of all that are in the same */
    public function addresses(): array
    {
        $addresses = [];
        foreach ([$this, ...$this->others()] as $one) {
            $addresses[$one->run_id] = array_column(PlacementOrder::fromArray($one->run->plan)->settings->cards, 'mac');
        }

        return $addresses;
    }

    /** Where the record is kept: a pcapng file. */
    public function file(): string
    {
        return Instance::folder(self::FOLDER)."/run-{$this->run_id}.pcapng";
    }

    /**
     * Takes what was written down since the last look.
     *
     * @throws HypervisorFailure
     * @throws UnableToWrite if this machine is full
     */
    public function look(Hypervisor $hypervisor): void
    {
        $file = @fopen($this->file(), 'c+b');
        ($file !== false && flock($file, LOCK_EX)) || throw UnableToWrite::open($this->file(), 'The record of an annex');
        fseek($file, 0, SEEK_END);
        $before = (int) ftell($file);
        do {
            $record = $hypervisor->annexRecord($this->name, (int) ftell($file));
            fwrite($file, $record->bytes) === strlen($record->bytes) || throw UnableToWrite::full($this->file());
        } while ($record->bytes !== '' && ftell($file) < self::MOST_BYTES);
        if (ftell($file) > $before || $this->wanted === null) {
            rewind($file);
            $this->read($file);
        }
        fclose($file);
        $this->fill(['beyond' => $record->beyond, 'looked_at' => now()])->save();
    }

    /** @param  resource  $record */
    private function read($record): void
    {
        try {
            $wanted = array_map(get_object_vars(...), Wanted::inAll((new CaptureReading($record))->packets()));
            $this->fill(['wanted' => $wanted, 'unread' => null]);
        } catch (UnreadableCapture $unreadable) {
            $this->fill(['unread' => $unreadable->getMessage()]);
        }
    }

    /** The same for who goes on without. */
    public function lookIfItCan(): void
    {
        try {
            $this->look($this->hypervisor->open());
        } catch (HypervisorFailure|UnableToWrite) {
            return; // the hypervisor's own look tells that it is silent
        }
    }

    /** @return list<Wanted> */
    public function wanted(): array
    {
        return array_map(fn (array $kept): Wanted => new Wanted(...$kept), $this->wanted ?? []);
    }

    /** Packets of all that it wanted. */
    public function packets(): int
    {
        return $this->beyond + array_sum(array_column($this->wanted ?? [], 'packets'));
    }
}
