<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Order;

use App\Models\BackupSet;
use App\Models\Workload;
use App\Sets\CannotPlan;
use App\Sets\CopyOutline;
use App\Sets\Points;
use App\Sets\ReadingOfSets;
use App\Stores\StoredCopy;
use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\UnreadableArchive;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\CopyState;
use Kaiseki\Core\Chain\Demands;

/** From which copies the dumps and logs of a database are read, and which of them meet what is demanded. */
final class SetReading
{
    private ?Points $points = null;

    /** @var array<string, string> name of a set => the store that it is read from first */
    private array $chosen = [];

    public function __construct(
        private readonly Workload $workload,
        public readonly CopyRule $rule = new CopyRule,
        private readonly Demands $demands = new Demands,
    ) {
    }

    /** Those of the workload, copies that are to be avoided left out. */
    public function points(): Points
    {
        return $this->points ??= new Points($this->workload, null, $this->rule);
    }

    /** Why no copy of a set (its id) can be read, also none that is fetched from the shelf; null if one can. */
    public function unreadable(int $set): ?string
    {
        $outline = $this->points()->sets[$set] ?? null;
        if ($outline === null || $outline->copies === []) {
            return 'there is no copy of it';
        }

        return $outline->isReadable()
            ? null
            : lcfirst(rtrim($outline->copies[0]->because ?? 'its copy is '.$outline->copies[0]->state->value, '.'));
    }

    /** Why a dump is passed over; null if it meets what is demanded. That it is of one moment is asked of those that there are. */
    public function unmet(BackupSet $dump, bool $isConsistent = true): ?string
    {
        $set = $this->points()->sets[$dump->id] ?? null;
        $demands = $isConsistent
            ? $this->demands
            : new Demands(false, $this->demands->clear, $this->demands->checked, $this->demands->site, $this->demands->withinSeconds);

        return $set === null ? 'it is not there' : $this->unreadable($dump->id) ?? $this->points()->finder()->blocks($set->set, $demands);
    }

    /**
     * Plans for what is to be read; from then on each set is read from the copy of that plan first.
     *
     * @param  list<Reach>  $reaches
     *
     * @throws CannotPlan if what may be read does not suffice
     */
    public function plan(array $reaches, Transactions $transactions, ?CopyRule $rule = null): ReadingOfSets
    {
        $bytes = [];
        foreach ($reaches as $reach) {
            $bytes[$reach->dump->id] = $reach->dump->bytes;
            foreach ($reach->logs as $log) {
                $id = $transactions->idOf($log);
                $bytes[$id] = $this->points()->sets[$id]->bytes ?? 0;
            }
        }
        $plan = ReadingOfSets::for($this->points(), $bytes, $rule ?? $this->rule);
        $this->chosen = $plan->stores();

        return $plan;
    }

    /** @throws UnreadableArchive if no copy of it can be read now */
    public function open(BackupSet $set): ArchiveFile
    {
        $because = 'there is no copy of it';
        $copies = $this->points()->sets[$set->id]->copies ?? [];
        $isFirst = fn (CopyOutline $copy): bool => $copy->store->name === ($this->chosen[$set->name] ?? '');
        usort($copies, fn (CopyOutline $a, CopyOutline $b): int => $isFirst($b) <=> $isFirst($a));
        foreach ($copies as $copy) {
            $store = $this->points()->stores->of($copy->store);
            $silence = $store->silence();
            if ($silence === null && $copy->state->isReadable() && $copy->state !== CopyState::Offline) {
                return $store->open(new StoredCopy($copy->path, $copy->bytes, $copy->segments, $copy->gzipped));
            }
            $because =
                $silence === null
                    ? lcfirst(rtrim($copy->because ?? "its copy is {$copy->state->value}", '.'))
                    : "{$copy->store->name} $silence";
        }
        throw UnreadableArchive::cannotOpen($because);
    }

    /** Lets go of what was opened to be read. */
    public function release(): void
    {
        $this->points?->stores->release();
    }
}
