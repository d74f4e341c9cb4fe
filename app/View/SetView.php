<?php

declare(strict_types=1);

namespace App\View;

use App\Care\Holds;
use App\Care\ReadingProgress;
use App\Jobs\ReadBackCopies;
use App\Kinds\BringsOthers;
use App\Kinds\Given;
use App\Kinds\Kinds;
use App\Models\BackupSet;
use App\Models\Check;
use App\Models\Hold;
use App\Models\SetSign;
use App\Models\User;
use App\Models\Verdict;
use App\Sets\CopyOutline;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Places\DoubtfulContent;
use Illuminate\Support\Collection;

/** What the page of one set shows. */
final class SetView
{
    public readonly Points $points;

    public readonly SetOutline $outline;

    public readonly string $zone;

    public readonly bool $canTend;

    public function __construct(public readonly BackupSet $set, public readonly User $user)
    {
        $this->zone = $user->zone;
        $this->canTend = $user->can('tend', $set);
        $this->points = new Points($set->workload);
        $this->outline = $this->points->sets[$set->id];
    }

    /** @return list<CopyLine> */
    public function copies(): array
    {
        return array_map(function (CopyOutline $copy): CopyLine {
            $check = Check::query()->with('user')->where('copy_id', $copy->id)->latest('id')->first();
            $wrong = ! $copy->state->isReadable() || ($check !== null && $check->result === 'damaged');

            $canMend = $this->canTend && $wrong && $this->points->stores->of($copy->store)->silence() === null;

            return new CopyLine($copy, $check, $canMend);
        }, $this->outline->copies);
    }

    /** @return Collection<int, SetSign> */
    public function signs(): Collection
    {
        return SetSign::query()->where('set_id', $this->set->id)->orderByDesc('doubts')->orderBy('id')->get();
    }

    public function verdict(): ?Verdict
    {
        return Verdict::query()->with('user')->where('set_id', $this->set->id)->latest('id')->first();
    }

    /** @return array<array-key, SetOutline|null> path => the set at which the doubt arose; the first so many */
    public function doubtful(int $limit = 12): array
    {
        $found = $this->outline->doubtful === 0 ? [] : (new DoubtfulContent($this->points))->at($this->outline);

        return array_map(fn (int $set): ?SetOutline => $this->points->sets[$set] ?? null, array_slice($found, 0, $limit, true));
    }

    /** @return Collection<int, Hold> */
    public function holds(): Collection
    {
        return Hold::ofWorkload($this->set->workload)->with('user')->where('set_id', $this->set->id)->orderBy('id')->get();
    }

    /** Why it is held though nobody put a hold on it; null if it is not. */
    public function heldBesides(): ?string
    {
        return $this->holds()->isNotEmpty() ? null : (new Holds)->ofWorkload($this->set->workload)[$this->set->id] ?? null;
    }

    /** @return list<SetOutline> what it rests on, the nearest first */
    public function restsOn(): array
    {
        return array_slice(array_reverse($this->points->chain($this->set->name)), 1);
    }

    /** @return list<Given> what it could give back */
    public function gives(): array
    {
        $others = array_map(fn (BringsOthers $kind): ?Given => $kind->given($this->set), Kinds::bringing($this->set->workload));

        return [...$this->points->judge->gives($this->set), ...array_filter($others)];
    }

    public function readingBack(): ?ReadingProgress
    {
        return ReadBackCopies::progress($this->set->workload_id);
    }
}
