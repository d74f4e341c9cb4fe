<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Kinds;
use Symfony\Component\Console\Input\InputInterface;

/** Drops a machine that stands, with all that it wrote. */
final class DiscardCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('discard')
            ->setDescription('Drops a machine that runs off its sets, with all that it wrote; what it set aside is there again');
        OfStanding::describe($this);
    }

    protected function carryOut(InputInterface $input): int
    {
        $run = OfStanding::said($input)->run;
        $marked = $run->markedPlace();
        $marked === null || self::refuseMarked($marked, 'dropping it');
        $told = Kinds::of($run)->carrier()->putBack($run, false);
        $this->answer($told->document, fn (): array => $told->lines);

        return $told->isWhole ? self::DONE : self::NOT_ALL_RIGHT;
    }
}
