<?php

declare(strict_types=1);

namespace App\Runs;

use App\Kinds\Kinds;
use App\Kinds\OffersOwn;
use App\Models\Role;
use App\Models\Run;
use Kaiseki\Core\Files\UnableToRestore;

/** Asked again when a run begins: who ordered it may have been limited, or locked, since. */
final class RunRefusal
{
    /** @throws UnableToRestore */
    public static function check(Run $run): void
    {
        $user = $run->user;
        if ($user === null) {
            return; // from the command line, by whoever has this machine
        }
        $kind = Kinds::of($run);
        $isOwn = $kind instanceof OffersOwn && $run->isOwn();
        $because = match (true) {
            $user->locked_at !== null => "{$user->name}, who ordered it, is locked.",
            ! $isOwn && $user->role !== Role::Operator => "{$user->name}, who ordered it, is no operator any more.",
            ! $user->sees($run->workload->group) => "{$user->name}, who ordered it, does not see {$run->workload->name} any more.",
            $isOwn => $kind->refusesOwn($run),
            default => $kind->carrier()->touches($run)->refusedTo($user),
        };
        if ($because !== null) {
            throw UnableToRestore::refused("Run {$run->id} is refused: $because");
        }
    }
}
