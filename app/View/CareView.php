<?php

declare(strict_types=1);

namespace App\View;

use App\Care\KeepRules;
use App\Care\KeptStanding;
use App\Care\ReadCoverage;
use App\Care\ReadingProgress;
use App\Jobs\ReadBackCopies;
use App\Kinds\CanLeaveOut;
use App\Kinds\Kinds;
use App\Kinds\Source;
use App\Models\Check;
use App\Models\Hold;
use App\Models\Making;
use App\Models\Right;
use App\Models\Schedule;
use App\Models\Store;
use App\Models\User;
use App\Models\Workload;
use App\Rights\PersonRights;
use App\Sets\LeftOut;
use App\Stores\OpenStores;
use App\Words;
use Carbon\CarbonImmutable;
use Illuminate\Support\Collection;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\View;
use Kaiseki\Core\Chain\Demands;
use Kaiseki\Core\Protect\Exclusions;
use stdClass;

/** What the page about the care of one workload shows: how sets are made, read back and kept, and what was promised. */
final class CareView
{
    public readonly string $zone;

    public readonly bool $canTend;

    public readonly KeptStanding $kept;

    public function __construct(public readonly Workload $workload, private readonly User $user)
    {
        $this->zone = $user->zone;
        $this->canTend = $user->can('tend', $workload);
        $this->kept = KeptStanding::of($workload);
    }

    public function source(): Source
    {
        return Kinds::of($this->workload)->source($this->workload);
    }

    /** Whether anything on the page is about to be otherwise. */
    public function isMoving(): bool
    {
        return $this->kept->isBeingReckoned || $this->isMaking() || $this->readingBack() !== null;
    }

    /** How long a whole restore takes, and how long the last one took. */
    public function restoreInWords(): string
    {
        $now = $this->kept->standing?->restoreSeconds;
        $last = $this->kept->standing?->lastRestoreSeconds;

        return ($now === null ? 'cannot be estimated' : 'about '.Words::duration($now))
            .($last === null ? '' : ', the last one took '.Words::duration($last));
    }

    /** What is, and what was promised: "3 h old; promised at most 26 h". */
    public function promised(?string $is, string $else, ?int $seconds): string
    {
        return ($is ?? $else).'; promised '.($seconds === null ? 'nothing' : 'at most '.Words::duration($seconds));
    }

    public function outsideInWords(): string
    {
        $is = match ($this->kept->standing?->isOutside) {
            null => 'not looked at yet',
            true => 'readable at another site too',
            false => "not readable anywhere but at {$this->workload->site}",
        };

        return $is.($this->workload->needs_outside_copy ? '; promised' : '');
    }

    /** The levels that a schedule can name: "full, diff or incr". */
    public function levelsInWords(): string
    {
        $levels = array_reverse(array_keys($this->source()->levels()));
        $last = (string) array_pop($levels);

        return $levels === [] ? $last : implode(', ', $levels)." or $last";
    }

    /** Whether it is settled here what its sets leave out. */
    public function canLeaveOut(): bool
    {
        return $this->source() instanceof CanLeaveOut && $this->source()->isKnown();
    }

    public function leftOut(): Exclusions
    {
        return LeftOut::of($this->workload);
    }

    /** A pattern as one would be of it. */
    public function leftOutLike(): string
    {
        $source = $this->source();

        return $source instanceof CanLeaveOut ? $source->leftOutLike() : '';
    }

    public function schedule(): ?Schedule
    {
        return Schedule::query()->with('store')->where('workload_id', $this->workload->id)->first();
    }

    /** @return Collection<int, Making> */
    public function makings(): Collection
    {
        return Making::query()->with('store')->where('workload_id', $this->workload->id)->latest('id')->limit(8)->get();
    }

    public function isMaking(): bool
    {
        return Making::query()
            ->where('workload_id', $this->workload->id)
            ->whereIn('state', ['queued', 'running'])
            ->exists();
    }

    /** @return Collection<int, Store> folders of ours, in which sets can be made */
    public function folders(): Collection
    {
        return $this->ours()->filter(fn (Store $store): bool => $store->kind === 'folder');
    }

    /** @return Collection<int, Store> */
    public function ours(): Collection
    {
        $reach = PersonRights::of($this->user);

        return (new OpenStores)
            ->all()
            ->filter(fn (Store $store): bool => ! $store->read_only && $reach->may(Right::Write, $store));
    }

    /** @return Collection<int, stdClass> */
    public function rules(): Collection
    {
        return KeepRules::of($this->workload);
    }

    /** @return Collection<int, Hold> */
    public function holds(): Collection
    {
        return Hold::ofWorkload($this->workload)->with('set', 'user')->orderBy('id')->get();
    }

    /** @return Collection<int, Check> */
    public function checks(): Collection
    {
        return Check::query()
            ->with('user')
            ->where('workload_id', $this->workload->id)
            ->orderByRaw("result IN ('right', 'mended')")
            ->latest('id')
            ->limit(6)
            ->get();
    }

    public function coverage(): ReadCoverage
    {
        $row = DB::selectOne(
            'SELECT COUNT(*) AS n, COUNT(checked_at) AS checked, MIN(checked_at) AS oldest FROM copies WHERE workload_id = ? AND state '.
                "IN ('ok', 'checked')",
            [$this->workload->id],
        );

        $oldest = $row->oldest === null ? null : CarbonImmutable::parse($row->oldest);

        return new ReadCoverage((int) $row->n, (int) $row->checked, $oldest);
    }

    public function readingBack(): ?ReadingProgress
    {
        return ReadBackCopies::progress($this->workload->id);
    }

    /** What its kind has to show there, if anything. */
    public function partOfKind(): ?string
    {
        $view = Kinds::of($this->workload)->view('care');

        return View::exists($view) ? $view : null;
    }

    public function daysInWords(): string
    {
        return EstateLine::keptInWords(array_map(fn (stdClass $day): bool => (bool) $day->met, $this->days()));
    }

    /** @return list<stdClass> one for each of the last days that is on record, oldest first */
    public function days(): array
    {
        return array_values(
            array_reverse(
                DB::table('objective_days')->where('workload_id', $this->workload->id)->orderByDesc('day')->limit(42)->get()->all(),
            ),
        );
    }

    public static function span(?int $seconds): string
    {
        return $seconds === null ? '' : Demands::spanInWords($seconds);
    }
}
