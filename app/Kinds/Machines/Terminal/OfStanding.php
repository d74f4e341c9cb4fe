<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Kinds\Machines\Standing\Standing;
use InvalidArgumentException;
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
}
