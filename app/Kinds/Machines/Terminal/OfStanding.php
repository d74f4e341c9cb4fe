<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Standing\Standing;
use App\Models\Run;
use Closure;
use InvalidArgumentException;
use Kaiseki\Core\Proof\CheckLine;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;

/** Commands about a machine that stands take the run that stood it up. */
final class OfStanding
{
    public static function describe(Command $command): void
    {
        $command->addArgument('run', InputArgument::REQUIRED, 'the number of the run that stood it up');
    }

    /** @throws InvalidArgumentException */
    public static function said(InputInterface $input): Standing
    {
        $number = (string) $input->getArgument('run');
        $standing = Standing::query()->where('run_id', (int) $number)->first()
            ?? throw new InvalidArgumentException("Run $number stood no machine up; \"standing\" lists those that did.");

        return $standing->ended === null
            ? $standing
            : throw new InvalidArgumentException("What run $number stood up does not stand any more: it was {$standing->ended}.");
    }

    /**
     * What came of a run that decided about one.
     *
     * @param  string  $became  "is settled"
     * @param  Closure(array<string, mixed>, Closure(): list<string>): void  $answer
     * @return int the exit status
     */
    public static function answer(Run $run, string $became, Closure $answer): int
    {
        $checks = $run->outcome['checks'] ?? [];
        $answer([
            'run' => $run->id,
            'state' => $run->state,
            'machine' => $run->plan['machine'],
            'on' => $run->plan['on'],
            'seconds' => $run->seconds() ?? 0.0,
            'checks' => $checks,
        ] + ($run->failure === null ? [] : ['error' => mb_scrub($run->failure)]), fn (): array => $run->state === 'done' ? [
            "Run {$run->id}: {$run->plan['machine']} at {$run->plan['on']} $became.",
            ...array_map(fn (CheckLine $check): string => "  {$check->told()}", CheckLine::all($checks)),
        ] : [(string) $run->failure]);
        $isRight = $run->state === 'done' && ($run->outcome['right'] ?? false);

        return $isRight ? KaisekiCommand::DONE : KaisekiCommand::NOT_ALL_RIGHT;
    }
}
