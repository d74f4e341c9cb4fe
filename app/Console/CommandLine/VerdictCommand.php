<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Trees\Doubt\DoubtBook;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class VerdictCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('judge')
            ->setDescription('Overrules the signs of a set: good, doubt, or none to take that back')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addArgument('set', InputArgument::REQUIRED, 'the set')
            ->addArgument('verdict', InputArgument::REQUIRED, 'good, doubt or none')
            ->addOption('reason', null, InputOption::VALUE_REQUIRED, 'is kept', '');
    }

    protected function changes(InputInterface $input): bool
    {
        return true;
    }

    protected function carryOut(InputInterface $input): int
    {
        $set = self::knownSet($this->workload($input), (string) $input->getArgument('set'));
        (new DoubtBook)->overrule($set, (string) $input->getArgument('verdict'), (string) $input->getOption('reason'), null);
        $set->refresh();
        $this->answer(
            ['set' => $set->name, 'in_doubt' => $set->in_doubt, 'doubtful_files' => $set->doubtful],
            fn (): array => ["{$set->name} is ".($set->in_doubt ? 'in doubt.' : 'not in doubt.')],
        );

        return self::DONE;
    }
}
