<?php

declare(strict_types=1);

namespace App\Runs;

use App\Models\Run;
use App\Models\RunStep;
use Kaiseki\Core\Proof\SignedProof;

/**
 * What the proofs of all kinds have in common. Numbers that are no whole ones are text: the canonical form (RFC 8785) has only one of
 * each.
 */
final class Evidence
{
    /** @param  array<string, mixed>  $evidence */
    public static function sign(Run $run, array $evidence): void
    {
        file_put_contents(RunFiles::proof($run), SignedProof::sign($evidence, ProofKey::pair())->json());
    }

    /** @return list<array{step: string, seconds: string, detail: string}> */
    public static function steps(Run $run): array
    {
        return array_values(
            $run
                ->steps()
                ->get()
                ->map(
                    fn (RunStep $step): array => [
                        'step' => $step->name,
                        'seconds' => sprintf('%.3f', $step->seconds() ?? 0),
                        'detail' => (string) $step->detail,
                    ],
                )
                ->all(),
        );
    }

    /**
     * @param  list<array<string, mixed>>  $commands
     * @return list<array<string, mixed>>
     */
    public static function commands(array $commands): array
    {
        return array_map(fn (array $command): array => ['seconds' => (string) $command['seconds']] + $command, $commands);
    }

    /**
     * @return array{state: string, by: string|null, words: string|null}|null who said yes, or began it without; null where nobody was
     *     asked
     */
    public static function approval(Run $run): ?array
    {
        $approval = $run->approval;

        return $approval === null ? null : ['state' => $approval->state, 'by' => $approval->decider?->name, 'words' => $approval->words];
    }
}
