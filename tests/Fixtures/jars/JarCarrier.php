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

final class JarCarrier implements Carrier
{
    public function carryOut(Run $run): void
    {
        $ledger = new RunLedger($run);
        if (! $ledger->claim(['open the jar'])) {
            return;
        }
        $copy = $run->set->copies()->with('store')->firstOrFail();
        $ledger->step(0, fn (): string => copy("{$copy->store->root}/{$copy->path}", $run->plan['to']) ? 'it is open' : 'it is stuck');
        $right = hash_file('xxh128', "{$copy->store->root}/{$copy->path}") === hash_file('xxh128', $run->plan['to']);
        $checks = [['check' => 'the same jam', 'result' => $right ? 'passed' : 'failed', 'detail' => 'by taste']];
        $run->update(['state' => 'done', 'outcome' => ['checks' => $checks, 'right' => $right], 'ended_at' => now(), 'set_aside_until' => now()->addDay()]);
        Evidence::sign($run, [
            'kind' => 'proof of a jar', 'version' => 1, 'run' => $run->id, 'request' => $run->request_id, 'order' => $run->plan['sentence'], 'right' => $right,
            'checks' => $checks, 'steps' => Evidence::steps($run), 'asked_by' => $run->request?->requester->name, 'run_by' => $run->user?->name,
            'started_at' => (string) $run->started_at, 'ended_at' => (string) $run->ended_at,
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

        return new PutBackTold(['removed' => 1, 'returned' => 0, 'left' => [], 'kept' => []], ['run' => $run->id, 'removed' => 1], ['The jar is closed again.'], true);
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
