<?php

declare(strict_types=1);

namespace Outside\Jars;

use App\Kinds\Carrier;
use App\Kinds\PutBackTold;
use App\Kinds\Touched;
use App\Models\Run;
use App\Models\User;
use App\Runs\Evidence;
use App\Runs\RunLedger;
use App\Sets\CannotPlan;
use App\Sets\Points;
use App\Sets\ReadingOfSets;
use Kaiseki\Core\Chain\CopyRule;

final class JarCarrier implements Carrier
{
    public function carryOut(Run $run): void
    {
        $ledger = new RunLedger($run);
        if (! $ledger->claim(['open the jar'])) {
            return;
        }
        $points = new Points($run->workload);
        $set = $points->sets[$run->set_id];
        $wanted = array_values(array_diff($set->parts === [] ? [0] : array_keys($set->parts), $run->plan['without'] ?? []));
        try {
            $from = ReadingOfSets::for($points, [$set->id => null], new CopyRule, [$set->id => $wanted])->stores();
        } catch (CannotPlan $cannot) {
            $ledger->fail($cannot->getMessage(), 'failed', '');

            return;
        }
        $jam = '';
        $ledger->step(0, function () use ($set, $wanted, $from, $points, &$jam): string {
            foreach ($set->copies as $copy) {
                $store = $from[$set->parts === [] ? $set->name : "{$set->name}#{$copy->part}"] ?? null;
                if (in_array($copy->part, $wanted, true) && $copy->store->name === $store) {
                    $jam .= $points->stores
                        ->of($copy->store)
                        ->raw($copy->stored())
                        ->read(1 << 20);
                }
            }

            return 'read from '.implode(' and ', array_unique($from));
        });
        file_put_contents($run->plan['to'], $jam);
        $right = file_get_contents($run->plan['to']) === $jam && $jam !== '';
        $checks = [['check' => 'the same jam', 'result' => $right ? 'passed' : 'failed', 'detail' => 'by taste']];
        $run->update([
            'state' => 'done',
            'outcome' => ['checks' => $checks, 'right' => $right],
            'ended_at' => now(),
            'set_aside_until' => now()->addDay(),
        ]);
        Evidence::sign($run, [
            'kind' => 'proof of a jar',
            'version' => 1,
            'run' => $run->id,
            'request' => $run->request_id,
            'order' => $run->plan['sentence'],
            'right' => $right,
            'checks' => $checks,
            'steps' => Evidence::steps($run),
            'asked_by' => $run->request?->requester->name,
            'run_by' => $run->user?->name,
            'started_at' => (string) $run->started_at,
            'ended_at' => (string) $run->ended_at,
        ]);
        $ledger->tell("Run {$run->id} ended.", 'answer');
    }

    public function canBePutBack(Run $run): bool
    {
        return $run->state === 'done';
    }

    public function losesLaterChanges(): bool
    {
        return false;
    }

    public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        unlink($run->plan['to']);
        $run->update(['put_back_at' => now(), 'set_aside_until' => null]);

        return new PutBackTold(
            ['removed' => 1, 'returned' => 0, 'left' => [], 'kept' => []],
            ['run' => $run->id, 'removed' => 1],
            ['The jar is closed again.'],
            true,
        );
    }

    public function clearAside(Run $run, ?User $by): void
    {
        $run->update(['set_aside_until' => null]);
    }

    public function clearStaged(Run $run): void
    {
    }

    public function touches(Run $run): Touched
    {
        return Touched::nothing();
    }

    public function sentence(Run $run, string $zone): string
    {
        return $run->plan['sentence'];
    }

    public function came(Run $run): string
    {
        return 'one jar';
    }

    public function howFar(Run $run): string
    {
        return 'half a spoon';
    }

    public function besideProof(Run $run): array
    {
        return [];
    }

    public function evidence(array $evidence): array
    {
        return $evidence;
    }
}
