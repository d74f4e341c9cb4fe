<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Models\Run;
use App\Sets\CannotRegister;
use App\Sets\Protection;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Files\Preview;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Files\Target;
use Kaiseki\Core\Files\UnableToRestore;
use RuntimeException;

/** What a run makes sure of before it changes anything in its target. */
final class BeforeWriting
{
    /**
     * What is carried out is what was shown.
     *
     * @throws UnableToRestore if something that stands there changed since the preview; nothing is changed then
     */
    public static function refuseIfChanged(RestorePlan $plan, RestoreOrder $order, Target $target, Journal $journal): void
    {
        $hasBegun = Journal::holds($journal->path, Journal::PLACED) || Journal::holds($journal->path, Journal::PERMITTED);
        if ($plan->previewed === '' || $hasBegun) {
            return;
        }
        $preview = new Preview($order, $target, 0);
        iterator_count($preview->lines()); // the fingerprint comes of going through them
        if ($preview->fingerprint() !== $plan->previewed) {
            throw UnableToRestore::targetUnfit(
                $target->label(),
                'what stands there changed since it was shown in the preview; look at the preview again, and order it anew',
            );
        }
    }

    /**
     * A set of what stands there now, if that is part of the order.
     *
     * @return string in words
     *
     * @throws UnableToRestore if it cannot be made
     */
    public static function set(Run $run, RestorePlan $plan): string
    {
        $made = $run->plan['made_first'] ?? null;
        if (! $plan->setFirst || is_string($made)) {
            return $plan->setFirst ? "$made was made before the interruption" : 'not asked for';
        }
        try {
            $set = Protection::ofPresent($run->workload);
        } catch (CannotRegister|InvalidArgumentException|RuntimeException $failure) {
            throw UnableToRestore::targetUnfit(
                (string) $run->workload->source,
                "a set of what is there could not be made first: {$failure->getMessage()}",
            );
        }
        $run->update(['plan' => ['made_first' => $set->name] + $run->plan]);

        return "{$set->name}, ".Words::size($set->bytes);
    }
}
