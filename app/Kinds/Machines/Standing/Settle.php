<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Standing;

use App\Jobs\CarryOutRun;
use App\Kinds\Machines\Annex\Annex;
use App\Kinds\Machines\Order\CannotBring;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use Carbon\CarbonImmutable;

/** What is decided about a machine that stands. */
final readonly class Settle
{
    public function __construct(private Standing $standing)
    {
    }

    /** @throws CannotBring if it cannot be settled now */
    public function order(SettleWish $wish, ?User $by): Run
    {
        $standing = $this->toBeDecided();
        $run = SettleOrder::of($standing, $wish->limit, OtherStorages::of($standing, $wish))->ordered($standing->run, $by);
        $standing->update(['settled_by' => $run->id, 'settle_at' => null, 'limit' => $wish->limit]);

        return $run;
    }

    /** @throws CannotBring if it cannot be settled then */
    public function orderAt(CarbonImmutable $at, SettleWish $wish, ?User $by): void
    {
        $standing = $this->toBeDecided();
        $at->isFuture() || throw CannotBring::because('The time at which it is to be settled lies ahead.');
        $storages = OtherStorages::of($standing, $wish);
        $standing->update(['settle_at' => $at, 'limit' => $wish->limit, 'storages' => $storages]);
        $when = $at->format('j M Y H:i T');
        TrailEntry::add("{$standing->machine} is to be settled at $when.", $standing->run->request, $by, $standing->run);
    }

    /** @throws CannotBring if it is settled already, or dropped */
    private function toBeDecided(): Standing
    {
        $standing = $this->standing;
        $standing->ended === null || throw CannotBring::because("It does not stand any more: it was {$standing->ended}.");
        Annex::around($standing->run) === null || throw CannotBring::because('It is in an annex: release it first, or drop it.');
        $standing->isBeingSettled() && throw CannotBring::because("Run {$standing->settled_by} settles it already.");

        return $standing;
    }

    /** While it is settled; whoever does that looks at it once a second. */
    public function limit(?int $limit, ?User $by): void
    {
        $this->standing->update(['limit' => $limit]);
        $words = $limit === null ? 'without a limit' : "at $limit MB/s at most";
        $request = $this->standing->run->request;
        TrailEntry::add("{$this->standing->machine} is settled $words from now on.", $request, $by, $this->standing->settling);
    }

    public static function begin(Run $run): void
    {
        CarryOutRun::dispatch($run->id);
    }
}
