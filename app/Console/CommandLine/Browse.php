<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\BrowsesFiles;
use App\Kinds\Kinds;
use InvalidArgumentException;
use Symfony\Component\Console\Input\ArgvInput;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Browse extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('browse')
            ->setDescription('Lists a folder as it was')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addOption('at', null, InputOption::VALUE_REQUIRED, 'the moment; the newest set at or before it is looked into')
            ->addOption('path', null, InputOption::VALUE_REQUIRED, 'the folder', '/');
        $this->addOptionsOfKinds();
    }

    protected function kinds(ArgvInput $input): array
    {
        return $this->kindOfNamed($input);
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        $terminal = Kinds::of($workload)->terminal();
        if (! $terminal instanceof BrowsesFiles) {
            throw new InvalidArgumentException("{$workload->name} holds no files that can be listed.");
        }
        $told = $terminal->browse($workload, $input);
        $this->answer($told->document, $told->lines);

        return $told->code;
    }
}
