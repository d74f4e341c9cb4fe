<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Annex;

use App\Kinds\Machines\Hypervisors\TouchedMachine;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Scan\AnnexFinding;
use App\Kinds\Machines\Scan\AnnexScan;
use App\Kinds\Machines\Standing\Standing;
use App\Models\Run;
use App\Models\User;

/** Orders that a machine is released out of its annex. */
final readonly class Release
{
    public function __construct(private Standing $standing)
    {
    }

    /**
     * What stands in the way, as its hypervisor was seen last; the run itself asks it again.
     *
     * @param  bool  $setsAside  whether what has its name is ended, and set aside
     * @param  bool  $unscanned  whether it may be released though nobody has looked through its files
     * @return list<string>
     */
    public function blockers(bool $setsAside, bool $unscanned): array
    {
        $standing = $this->standing;
        $order = ReleaseOrder::of($standing, false);
        $placed = $order->placed();
        $annex = Annex::around($standing->run);
        if ($annex === null) {
            return ["{$standing->machine} is in no annex."];
        }
        $machines = $standing->hypervisor->lastSeen()->machines ?? [];
        $blockers = self::found($annex, $unscanned);
        if (isset($machines[$order->machine]) && ! $setsAside) {
            $blockers[] = "There is a machine {$order->machine} at {$order->on}: it can be ended and set aside under another name.";
        }
        $marked = TouchedMachine::by($order->touched()->with(isAside: isset($machines[$order->machine])))->marked()[0] ?? null;
        if ($marked !== null) {
            $blockers[] = "{$marked->name} is marked: that {$order->machine} is set aside waits for a second person, who is asked for on ".
                'the worksheet of a request. Have that done first, or drop this one.';
        }
        foreach ($machines as $name => $machine) {
            $macs = array_column($name === $order->machine || $name === $standing->machine ? [] : $machine->settings->cards, 'mac');
            foreach (array_intersect(array_column($placed->settings->cards, 'mac'), $macs) as $mac) {
                $blockers[] = "The machine $name has the address $mac too: the two must not meet.";
            }
        }

        return $blockers;
    }

    /** @return list<string> what a scan found, and nobody has decided that it may be released */
    private static function found(Annex $annex, bool $unscanned): array
    {
        $blockers = [];
        if (AnnexScan::lastOf($annex)?->isAtWork()) {
            $blockers[] = 'It is being scanned.';
        } elseif (AnnexScan::lastDoneOf($annex) === null && ! $unscanned) {
            $blockers[] = 'Nobody has scanned it: scan it, or say that it is released unscanned.';
        }
        foreach (AnnexFinding::of($annex) as $finding) {
            if ($finding->verdict !== AnnexFinding::HARMLESS) {
                $blockers[] = "{$finding->shownPath()} was found to be {$finding->what}: ".($finding->verdict === null
                    ? 'it waits for a verdict.'
                    : 'it is bad. Remove it in the machine and scan that again, or drop the machine.');
            }
        }

        return $blockers;
    }

    /** The run that releases what another stood up, now or in a moment. */
    public static function atWork(Run $of): ?Run
    {
        return Run::query()
            ->where(['workload_id' => $of->workload_id, 'plan->way' => ReleaseOrder::way(), 'plan->stands' => $of->id])
            ->get()
            ->first(fn (Run $run): bool => ! $run->isOver());
    }

    /** @throws CannotBring if it cannot be released now */
    public function order(bool $setsAside, bool $unscanned, ?User $by): Run
    {
        $standing = $this->standing;
        $standing->ended === null || throw CannotBring::because("It does not stand any more: it was {$standing->ended}.");
        $blockers = $this->blockers($setsAside, $unscanned);
        $blockers === [] || throw CannotBring::because(implode(' ', $blockers));
        $of = $standing->run;
        $atWork = self::atWork($of);
        $atWork === null || throw CannotBring::because("Run {$atWork->id} releases it already.");
        $isThere = isset($standing->hypervisor->lastSeen()->machines[$of->plan['machine']]);

        return ReleaseOrder::of($standing, $setsAside && $isThere)->ordered($of, $by);
    }
}
