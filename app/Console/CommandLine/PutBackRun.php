<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\Kinds;
use App\Models\Run;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class PutBackRun extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('put-back')
            ->setDescription('Undoes what a run put in place, and puts back what it replaced')
            ->addArgument('run', InputArgument::REQUIRED, 'the number of the run')
            ->addOption(
                'also-changed',
                null,
                InputOption::VALUE_NONE,
                'also where somebody changed something since: their version is kept beside it under another name',
            );
    }

    protected function carryOut(InputInterface $input): int
    {
        $number = (string) $input->getArgument('run');
        $run = Run::query()->find((int) $number) ?? throw new InvalidArgumentException("There is no run $number.");
        $carrier = Kinds::of($run)->carrier();
        $marked = $carrier->losesLaterChanges() || $input->getOption('also-changed') ? $run->marked() : $run->markedPlace();
        $marked === null || self::refuseMarked($marked, 'putting it back');
        $told = $carrier->putBack($run, (bool) $input->getOption('also-changed'));
        $this->answer($told->document, fn (): array => $told->lines);

        return $told->isWhole ? self::DONE : self::NOT_ALL_RIGHT;
    }
}
