<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Kinds\Carrier;
use App\Kinds\PutBackTold;
use App\Kinds\Touched;
use App\Models\Run;
use App\Models\TrailEntry;
use App\Models\User;
use App\Runs\RunFiles;
use App\Runs\TargetLock;
use App\Words;
use Closure;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Files\LeftOut;
use Kaiseki\Core\Files\PutBack;
use Kaiseki\Core\Files\RestoreOrder;

/** Runs that bring files of a tree into a folder of a host. */
final readonly class TreeCarrier implements Carrier
{
    /** @param  (Closure(string): void)|null  $told */
    public function __construct(private ?Closure $told = null)
    {
    }

    public function carryOut(Run $run): void
    {
        $this->carrier()->carryOut($run);
    }

    private function carrier(): RunCarrier
    {
        $told = $this->told;

        return new RunCarrier(
            $told === null ? null : fn (int $files, int $bytes) => $told(number_format($files).' files, '.Words::size($bytes)),
        );
    }

    public function canBePutBack(Run $run): bool
    {
        return $run->taken_as === null &&
            ($run->set_aside_until !== null || ($run->outcome['set_aside'] ?? 0) === 0) &&
            Journal::isBegun(RunFiles::journal($run));
    }

    public function losesLaterChanges(): bool
    {
        return false;
    }

    public function putBack(Run $run, bool $alsoChanged): PutBackTold
    {
        return self::told($run, (new RunCarrier)->putBack($run, $alsoChanged));
    }

    /** What came of it, for whatever kind brought files of a tree. */
    public static function told(Run $run, PutBack $done): PutBackTold
    {
        return new PutBackTold(
            [
                'removed' => $done->removed,
                'returned' => $done->returned,
                'left' => array_map(RunOutcome::row(...), $done->left),
                'kept' => array_map(mb_scrub(...), array_values($done->kept)),
            ],
            [
                'run' => $run->id,
                'removed' => $done->removed,
                'returned' => $done->returned,
                'left' => array_map(fn (LeftOut $left): array => PathInJson::of($left->path) + ['because' => $left->because], $done->left),
                'kept' => array_map(
                    fn (int|string $path, string $name): array => PathInJson::of((string) $path) + ['as' => mb_scrub($name)],
                    array_keys($done->kept),
                    $done->kept,
                ),
            ],
            self::lines($done),
            $done->left === [],
        );
    }

    /** @return list<string> */
    private static function lines(PutBack $done): array
    {
        $lines = [
            $done->permitted > 0
                ? "{$done->permitted} things have the permissions again that they had before the run."
                : "{$done->removed} things that the run had placed were removed, {$done->returned} that it had replaced are back.",
        ];
        foreach ($done->left as $left) {
            $lines[] = "  left as it is: {$left->path}: {$left->because}";
        }
        foreach ($done->kept as $path => $name) {
            $lines[] = "  was changed since: /$path is now /$name";
        }

        return $lines;
    }

    public function clearAside(Run $run, ?User $by): void
    {
        $plan = RestorePlan::fromArray($run->plan);
        TargetLock::take($plan->target, $plan->host);
        try {
            if ($plan->look()->status('') !== null) {
                $plan->open()->removeTree(RestoreOrder::setAsideOf((string) $run->id));
            }
            $run->update(['set_aside_until' => null]);
            TrailEntry::add("What run {$run->id} had replaced was removed from the set-aside.", $run->request, $by, $run);
        } finally {
            TargetLock::free($plan->target, $plan->host);
        }
    }

    public function clearStaged(Run $run): void
    {
        $plan = RestorePlan::fromArray($run->plan);
        $staging = RestoreOrder::stagingOf((string) $run->id);
        if ($plan->look()->status($staging) !== null) {
            $plan->open()->removeTree($staging);
        }
    }

    public function touches(Run $run): Touched
    {
        $plan = RestorePlan::fromArray($run->plan);

        return $plan->download !== '' ? Touched::nothing() : new Touched([TouchedFolder::of($plan->hostModel(), $plan->target)]);
    }

    /** It was written down with the moment of the point in UTC. */
    public function sentence(Run $run, string $zone): string
    {
        return str_replace(Words::moment($run->point_at, 'UTC'), Words::moment($run->point_at, $zone), (string) $run->plan['sentence']);
    }

    public function came(Run $run): string
    {
        if (self::isOfPermissions($run)) {
            return 'the permissions of '.Words::count((int) ($run->outcome['replaced'] ?? 0), 'thing');
        }

        return Words::count((int) ($run->outcome['files'] ?? 0), 'file').', '.Words::size((int) ($run->outcome['bytes'] ?? 0));
    }

    private static function isOfPermissions(Run $run): bool
    {
        return (bool) ($run->plan['permissions_only'] ?? false);
    }

    public function howFar(Run $run): string
    {
        $things = self::isOfPermissions($run) ? 'things' : 'files';

        return number_format($run->files_done).' of '.number_format($run->files_total)." $things";
    }

    public function besideProof(Run $run): array
    {
        return ['.b2sum' => RunFiles::manifest($run), '.entries.jsonl' => RunFiles::entries($run)];
    }

    public function evidence(array $evidence): array
    {
        return $evidence + [
            'approval' => null,
            'download' => '',
            'permissions_only' => false,
            'host' => null,
            'steps' => [],
            'commands' => [],
            'entries_blake2b_256' => '',
        ];
    }
}
