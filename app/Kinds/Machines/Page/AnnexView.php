<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Page;

use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Annex\AnnexChange;
use App\Kinds\Machines\Annex\Release;
use App\Kinds\Machines\Order\PlacementOrder;
use App\Kinds\Machines\Scan\AnnexFinding;
use App\Kinds\Machines\Scan\AnnexScan;
use App\Kinds\Machines\Standing\Standing;
use App\Models\Right;
use App\Models\Run;
use App\Models\User;
use App\Rights\PersonRights;
use Carbon\CarbonImmutable;
use Illuminate\Database\Eloquent\Collection;
use Kaiseki\Core\Packets\Wanted;

/** The annex that a run stood a machine up in: what came of it so far, and what can be done there. */
final readonly class AnnexView
{
    /** Lines of each list that are shown. */
    public const MOST = 100;

    /** @var Collection<int, AnnexChange> the last last */
    public Collection $changes;

    /** The last one, whatever came of it. */
    public ?AnnexScan $scan;

    /** @var Collection<int, AnnexFinding> of the last that came to its end, the undecided first */
    public Collection $findings;

    /** What releases it now, or in a moment. */
    public ?Run $release;

    /** @var Collection<int, Annex> of the other machines that are in it, of those that this person sees */
    public Collection $others;

    /** @var list<string> what stands in the way of releasing it, whatever is set aside */
    public array $blockers;

    private PlacementOrder $order;

    private function __construct(public Annex $annex, private ?Standing $standing, private User $viewer)
    {
        $this->changes = $annex->changes()->with('user')->get();
        $this->others = $annex->others()->filter(fn (Annex $other): bool => $viewer->sees($other->run->workload->group))->values();
        $this->scan = AnnexScan::lastOf($annex);
        $this->findings = AnnexFinding::of($annex);
        $this->release = $standing === null ? null : Release::atWork($annex->run);
        $this->blockers = $standing === null ? [] : (new Release($standing))->blockers(true, true);
        $this->order = PlacementOrder::fromArray($annex->run->plan);
    }

    public static function ofRun(Run $run, User $viewer): ?self
    {
        $annex = Annex::query()->where('run_id', $run->id)->with('run', 'hypervisor')->first();
        $standing = Standing::query()->where('run_id', $run->id)->whereNull('ended')->first();

        return $annex === null ? null : new self($annex, $standing, $viewer);
    }

    public function isOpen(): bool
    {
        return $this->annex->ended === null && $this->standing !== null;
    }

    /** Whether it may be looked at what its machine sent and said: that may be anything that is in it. */
    public function mayLook(): bool
    {
        return PersonRights::of($this->viewer)->may(Right::Read, $this->annex->hypervisor);
    }

    public function isWaiting(): bool
    {
        return $this->scan?->isAtWork() === true || $this->changes->contains('state', AnnexChange::WAITING);
    }

    /** @return list<array{Wanted, CarbonImmutable, CarbonImmutable}> with its first time and its last */
    public function wanted(): array
    {
        $at = fn (float $time): CarbonImmutable => CarbonImmutable::createFromTimestampUTC((int) $time);

        return array_map(
            fn (Wanted $one): array => [$one, $at($one->first), $at($one->last)],
            array_slice($this->annex->wanted(), 0, self::MOST),
        );
    }

    /** Whether several machines are in it, or were. */
    public function isShared(): bool
    {
        return count(array_unique(array_column($this->annex->wanted ?? [], 'sender'))) > 1;
    }

    /** Whether a scan came to its end. */
    public function isScanned(): bool
    {
        return AnnexScan::lastDoneOf($this->annex) !== null;
    }

    /** Where it goes when it is released. */
    public function networks(): string
    {
        return implode(', ', $this->order->settings->networks()) ?: 'no network';
    }

    /** What its name will be there. */
    public function name(): string
    {
        return $this->order->machine;
    }

    /** Whether another has that name now, as it was seen last. */
    public function isNameTaken(): bool
    {
        return isset($this->annex->hypervisor->lastSeen()->machines[$this->order->machine]);
    }
}
