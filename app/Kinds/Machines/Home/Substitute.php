<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Home;

use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Kinds\Machines\Names\LeadNames;
use App\Kinds\Machines\Names\LedName;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Run\StoodUp;
use App\Kinds\Machines\Standing\Standing;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Models\Workload;
use App\View\WaitingThing;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Collection;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A machine that was brought back elsewhere, and is the original for now: sets are made of it, until it has gone home.
 *
 * @property int $id
 * @property int $workload_id
 * @property int $run_id that brought it back
 * @property int $hypervisor_id
 * @property string $machine its name there, once it is settled
 * @property int $home_id the hypervisor that the original was at
 * @property string $home_machine
 * @property list<array<mixed>>|null $names that lead to it, as LedName has them
 * @property CarbonImmutable|null $home_at when it is to go home
 * @property array<mixed>|null $home_wish and how
 * @property int|null $home_by who wants that
 * @property int|null $home_run_id the run that takes it home, or did
 * @property int|null $went_to the hypervisor that is its home now
 * @property string|null $ended HOME or DROPPED; null while it stands in
 * @property CarbonImmutable|null $ended_at
 * @property CarbonImmutable $created_at
 * @property-read Workload $workload
 * @property-read Run $run
 * @property-read Run|null $homeRun
 * @property-read HypervisorHost $hypervisor
 * @property-read HypervisorHost $home
 * @property-read User|null $homeBy
 */
final class Substitute extends Model
{
    public const HOME = 'home';

    public const DROPPED = 'dropped';

    protected $table = 'machine_substitutes';

    protected $guarded = [];

    protected function casts(): array
    {
        return ['home_at' => 'immutable_datetime', 'home_wish' => 'array', 'names' => 'array', 'ended_at' => 'immutable_datetime'];
    }

    /** @return BelongsTo<Workload, $this> */
    public function workload(): BelongsTo
    {
        return $this->belongsTo(Workload::class);
    }

    /** @return BelongsTo<Run, $this> */
    public function run(): BelongsTo
    {
        return $this->belongsTo(Run::class);
    }

    /** @return BelongsTo<Run, $this> */
    public function homeRun(): BelongsTo
    {
        return $this->belongsTo(Run::class, 'home_run_id');
    }

    /** @return BelongsTo<HypervisorHost, $this> */
    public function hypervisor(): BelongsTo
    {
        return $this->belongsTo(HypervisorHost::class);
    }

    /** @return BelongsTo<HypervisorHost, $this> */
    public function home(): BelongsTo
    {
        return $this->belongsTo(HypervisorHost::class, 'home_id');
    }

    /** @return BelongsTo<User, $this> */
    public function homeBy(): BelongsTo
    {
        return $this->belongsTo(User::class, 'home_by');
    }

    /** That of a run, while it stands in. */
    public static function active(Run $run): ?self
    {
        return self::query()->where('run_id', $run->id)->whereNull('ended')->first();
    }

    /** @return Collection<int, self> those that stand in */
    public static function now(): Collection
    {
        return self::query()->whereNull('ended')->with('run.workload', 'workload', 'hypervisor', 'home', 'homeRun')->orderBy('id')->get();
    }

    /**
     * Those whose original must not run: what stands in, and what went to another home than its own.
     *
     * @return Builder<self>
     */
    private static function inPlace(): Builder
    {
        $isElsewhere = fn (Builder $one) => $one->where('ended', self::HOME)->whereColumn('went_to', '<>', 'home_id');

        return self::query()->where(fn (Builder $one) => $one->whereNull('ended')->orWhere($isElsewhere));
    }

    /** The one that is in the place of what is called so at a hypervisor. */
    public static function for(HypervisorHost $home, string $machine): ?self
    {
        return self::inPlace()->where(['home_id' => $home->id, 'home_machine' => $machine])->orderByDesc('id')->first();
    }

    /** @return list<self> those that somebody has to decide about: what stands in, and an original that runs again */
    public static function concerns(): array
    {
        $all = self::inPlace()->with('run.workload', 'workload', 'hypervisor', 'home', 'homeRun')->orderBy('id')->get();

        return array_values($all->filter(fn (self $one): bool => $one->ended === null || $one->originalRuns() === true)->all());
    }

    /**
     * The original never runs beside what stands in for it; nor what stood in beside the one that is home.
     *
     * @throws CannotBring
     */
    public static function refuseBeside(HypervisorHost $host, string $machine): void
    {
        $there = self::for($host, $machine);
        $there === null || throw CannotBring::because($there->whyNotBeside());
        $gone = self::kept()->first(fn (self $one): bool => $one->isCalled($host, $machine));
        $gone === null || throw CannotBring::because("$machine went home, to {$gone->homeRun?->plan['on']}, and the two must not run ".
            "beside each other: put run {$gone->home_run_id} back, and this one is started.");
    }

    /** @return Collection<int, self> what stood in and went home, as long as it is kept */
    public static function kept(): Collection
    {
        $isKept = fn (Builder $run) => $run->whereNotNull('set_aside_until')->whereNull('put_back_at');

        return self::query()->where('ended', self::HOME)->whereHas('homeRun', $isKept)->with('run', 'homeRun')->get();
    }

    /** Whether it is called so there, settled or not. */
    public function isCalled(HypervisorHost $host, string $machine): bool
    {
        $names = [$this->machine, StoodUp::nameOf($this->run, $this->machine)];

        return $host->id === $this->hypervisor_id && in_array($machine, $names, true);
    }

    public function whyNotBeside(): string
    {
        if ($this->ended !== null) {
            return "{$this->home_machine} at {$this->home->name} is not the machine any more, which is at home elsewhere since run ".
                "{$this->home_run_id}, and the two must not run beside each other.";
        }

        return "{$this->machine} at {$this->hypervisor->name} stands in for {$this->home_machine} at {$this->home->name}, and the two ".
            "must not run beside each other: bring it home with \"go-home {$this->run_id}\", or on the page of run {$this->run_id}.";
    }

    /** What stood in goes, and nothing came home: the original is what it was. */
    public function drop(): void
    {
        $this->home->holds($this->workload, $this->home_machine);
        foreach (LeadNames::go(LeadNames::turned($this->ledNames())) as $check) {
            TrailEntry::add("{$check->detail}.", $this->run->request, null, $this->run, workload: $this->workload);
        }
        $this->end(self::DROPPED);
    }

    public function end(string $how): void
    {
        $this->update(['ended' => $how, 'ended_at' => now(), 'home_at' => null, 'home_wish' => null, 'home_by' => null]);
    }

    /** It stands in again. */
    public function again(): void
    {
        $this->update(['ended' => null, 'ended_at' => null, 'home_run_id' => null, 'went_to' => null]);
    }

    /** @return list<LedName> names that lead to it, and what they led to before */
    public function ledNames(): array
    {
        return array_map(LedName::fromArray(...), $this->names ?? []);
    }

    /** A name that led to this one, and leads elsewhere now: since it led home. */
    public function ledSince(LedName $now): ?LedName
    {
        foreach ($this->ledNames() as $one) {
            if ($one->name === $now->name) {
                return new LedName($one->name, $one->from, $now->to);
            }
        }

        return null;
    }

    /** What it is called there now, also while it is not settled. */
    public function nameThere(): string
    {
        $standing = Standing::ofRun($this->run);

        return $standing !== null && $standing->ended === null ? $standing->machine : $this->machine;
    }

    /** Whether a run takes it home now, or is about to. */
    public function isGoingHome(): bool
    {
        return $this->homeRun !== null && ! $this->homeRun->isOver();
    }

    /** Of the original, as its hypervisor was seen since: null if it is not there, or nobody knows; else whether it runs. */
    public function originalRuns(): ?bool
    {
        $isSeen = $this->home->silent === null && $this->home->seen_at?->gte($this->created_at);

        return ! $isSeen ? null : ($this->home->lastSeen()->machines[$this->home_machine] ?? null)?->isRunning();
    }

    /** What waits for somebody as long as it stands in. */
    public function waiting(): WaitingThing
    {
        $original = "{$this->home_machine} at {$this->home->name}";
        $stands = "{$this->machine} at {$this->hypervisor->name} stands in for $original";
        [$weight, $what] = match (true) {
            $this->ended !== null => [98, "$original runs again, and is not the machine any more: shut it down"],
            $this->originalRuns() === true => [98, "$original runs again, while $stands: shut one of them down"],
            $this->isGoingHome() => [35, "$stands, and is being brought home"],
            $this->home_at !== null => [30, "$stands, and will be brought home"],
            default => [30, "$stands: bring it home when its hypervisor can have it"],
        };

        return new WaitingThing(
            $weight,
            $this->workload->name,
            $what,
            $this->home_at ?? $this->created_at,
            $weight > 90 ? 'Look at it' : 'Bring it home',
            ($this->isGoingHome() ? $this->homeRun : $this->run)?->page() ?? '/estate',
            "substitute-{$this->id}",
        );
    }
}
