<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\Duty;
use App\Models\Right;
use App\Models\User;
use App\Models\Workload;
use App\Rights\PersonRights;

/**
 * Every place that an order would write to, replace or delete. Rights, the second person and holds ask this, never the request's workload
 * alone.
 */
final readonly class Touched
{
    /**
     * @param  list<TouchedPlace>  $places
     * @param  Duty|null  $duty  that whoever orders it, and whoever says yes to it, must have: always two people, whatever is marked
     */
    public function __construct(public array $places, public ?Duty $duty = null)
    {
    }

    public static function nothing(): self
    {
        return new self([]);
    }

    /** @return list<Workload> those that are marked, of the ones whose original lies there */
    public function marked(): array
    {
        $marked = [];
        foreach ($this->places as $place) {
            foreach ($place->originals as $workload) {
                if ($workload->needs_approval) {
                    $marked[$workload->id] = $workload;
                }
            }
        }

        return array_values($marked);
    }

    /** Why somebody may not order this, whose places these are not; null if they may. */
    public function refusedTo(User $user): ?string
    {
        if ($this->duty !== null && ! $user->hasDuty($this->duty)) {
            return "You may not {$this->duty->words()}: an administrator says who may.";
        }
        $reach = PersonRights::of($user);
        foreach ($this->places as $place) {
            $because = $place->on === null ? null : $reach->refuses(Right::Write, $place->on);
            if ($because !== null) {
                return $because;
            }
            $sees = fn (Workload $workload): bool => $user->sees($workload->group);
            if (! $place->isShared && count(array_filter($place->originals, $sees)) < count($place->originals)) {
                return "In {$place->in} lies the original of a workload that is not yours.";
            }
        }

        return null;
    }
}
