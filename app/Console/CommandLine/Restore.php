<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\Kinds;
use Symfony\Component\Console\Input\ArgvInput;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Restore extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('restore')->setDescription('Brings something of a workload back, and checks what came')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addOption('dry-run', null, InputOption::VALUE_NONE, 'only say what would be done');
        $this->addOptionsOfKinds();
    }

    protected function kinds(ArgvInput $input): array
    {
        return $this->kindOfNamed($input);
    }

    protected function changes(InputInterface $input): bool
    {
        return true;
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        $told = Kinds::terminalOf($workload, $input)->restore($workload, $input, $this->talk());
        $this->endProgress();
        $this->answer($told->document, $told->lines);

        return $told->code;
    }
}
