<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Hypervisors;

use App\Kinds\FoundSource;
use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Home\Substitute;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Standing\Standing;
use App\Models\BelongsToGroups;
use App\Models\Target;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Support\Facades\DB;
use Kaiseki\Core\Hypervisor\Hypervisor;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\RemoteHypervisor;

/**
 * A hypervisor that is known here, and can be reached.
 *
 * @property int $id
 * @property string $name
 * @property string $site
 * @property string $folder of this machine: where it answers, and opens disks
 * @property array<mixed>|null $seen as it was when it answered last
 * @property CarbonImmutable|null $seen_at when that was
 * @property string|null $silent why it does not answer any more; null if it does
 * @property CarbonImmutable|null $silent_since
 * @property string|null $line_network a network there, from which a machine reaches the line of this desk; null if none is known
 * @property string|null $line where it reaches that from there: HOST:PORT
 */
final class HypervisorHost extends Model implements Target
{
    use BelongsToGroups;

    protected $table = 'hypervisors';

    protected $guarded = [];

    protected function casts(): array
    {
        return ['seen' => 'array', 'seen_at' => 'immutable_datetime', 'silent_since' => 'immutable_datetime'];
    }

    /** @throws CannotBring if it is not known any more */
    public static function named(string $name): self
    {
        return self::query()->where('name', $name)->first() ?? throw CannotBring::because("There is no hypervisor $name any more.");
    }

    public static function sort(): string
    {
        return 'hypervisor';
    }

    public function whereabouts(): string
    {
        return $this->folder;
    }

    public function originals(): array
    {
        return $this->workloads(null);
    }

    /** @return list<Workload> those that are one of its machines */
    public function workloads(?string $machine): array
    {
        $of = DB::table('machine_originals')->where('hypervisor_id', $this->id)->select('workload_id');
        $machine === null || $of->where('machine', $machine);

        return array_values(Workload::query()->whereIn('id', $of)->get()->all());
    }

    /** From now on it is known which of its machines a workload is, and by what it is told from others once it runs. */
    public function holds(Workload $workload, string $machine, ?Answer $answer = null): void
    {
        $row = ['hypervisor_id' => $this->id, 'machine' => $machine];
        $row += $answer === null ? [] : ['asked' => $answer->asked, 'answers' => json_encode($answer->files, JSON_THROW_ON_ERROR)];
        DB::table('machine_originals')->upsert(['workload_id' => $workload->id] + $row, ['workload_id'], array_keys($row));
    }

    /** @param  list<string>  $disks  that no set of a workload is made of from now on */
    public static function exclude(Workload $workload, array $disks): void
    {
        DB::table('machine_originals')
            ->where('workload_id', $workload->id)
            ->update(['excluded' => $disks === [] ? null : json_encode($disks, JSON_THROW_ON_ERROR)]);
    }

    /** @return list<string> disks that no set of a workload is made of */
    public static function excluded(Workload $workload): array
    {
        $kept = json_decode((string) DB::table('machine_originals')->where('workload_id', $workload->id)->value('excluded'), true);

        return is_array($kept) ? array_values(array_map(strval(...), $kept)) : [];
    }

    /** @return array{self, string}|null the hypervisor and machine that a workload is; null if that is not known */
    public static function of(Workload $workload): ?array
    {
        $row = DB::table('machine_originals')->where('workload_id', $workload->id)->first();
        $host = $row === null ? null : self::query()->find($row->hypervisor_id);

        return $row === null || $host === null ? null : [$host, (string) $row->machine];
    }

    /**
     * The same as it is called now: one that stands on its sets in the place of the original, until it is settled, is the original.
     *
     * @return array{self, string}|null
     */
    public static function nowOf(Workload $workload): ?array
    {
        $of = self::of($workload);
        $standing = $of === null ? null : Standing::query()
            ->where('hypervisor_id', $of[0]->id)
            ->whereNull('ended')
            ->whereNotIn('run_id', Annex::query()->whereNull('ended')->select('run_id'))
            ->whereHas('run', fn (Builder $run) => $run->where('workload_id', $workload->id)->where('plan->machine', $of[1]))
            ->first();

        return $of === null || $standing === null ? $of : [$of[0], $standing->machine];
    }

    /**
     * Looks at it now, which takes as long as it does to answer, and keeps what is there for the pages.
     *
     * @throws HypervisorFailure if it does not answer; that is kept too
     */
    public function look(): SeenHost
    {
        try {
            $seen = SeenHost::at($this->open());
        } catch (HypervisorFailure $failure) {
            $silent = ['silent' => mb_substr($failure->getMessage(), 0, 500), 'silent_since' => $this->silent_since ?? now()];
            $this->fill($silent)->save();
            throw $failure;
        }
        $this->fill(['seen' => $seen->toArray(), 'seen_at' => now(), 'silent' => null, 'silent_since' => null])->save();

        return $seen;
    }

    /** The same for who goes on without: that it is silent is kept. */
    public function lookIfItAnswers(): void
    {
        try {
            $this->look();
        } catch (HypervisorFailure) {
            return;
        }
    }

    /** Whether a run made it, and it is not in place yet, or set it aside. */
    public static function isOfRun(string $name): bool
    {
        return preg_match('/\.(run-|standing-run-|before-\d{8}T\d{6}Z-run-)\d+$/D', $name) === 1;
    }

    /**
     * Machines that no workload is, as they were when their hypervisors were looked at last; those that a run made or set aside are none.
     *
     * @return list<FoundSource>
     */
    public static function unprotected(): array
    {
        $found = [];
        $kept = Substitute::kept();
        foreach (self::query()->orderBy('name')->get() as $host) {
            $known = DB::table('machine_originals')->where('hypervisor_id', $host->id)->pluck('machine')->all();
            foreach ($host->lastSeen()->machines ?? [] as $name => $machine) {
                $isKept = $kept->contains(fn (Substitute $one): bool => $one->isCalled($host, $name));
                if (! $isKept && ! in_array($name, $known, true) && ! self::isOfRun($name)) {
                    $group = $machine->settings->tags[0] ?? self::FIRST_GROUP;
                    $found[] = new FoundSource($name, $group, "{$host->name}:$name", ['site' => $host->site]);
                }
            }
        }

        return $found;
    }

    /** As it was when it was looked at last; null if it never answered. */
    public function lastSeen(): ?SeenHost
    {
        return $this->seen === null ? null : SeenHost::fromArray($this->seen);
    }

    /** A connection of its own, which ends with the object that is given. */
    public function open(): Hypervisor
    {
        return new RemoteHypervisor($this->name, $this->folder);
    }
}
