<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Sets\CopyOn;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class CopySet extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('copy')
            ->setDescription('Copies a set to another store, and compares the copy')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addArgument('set', InputArgument::REQUIRED, 'the set')
            ->addOption('to', null, InputOption::VALUE_REQUIRED, 'the store');
    }

    protected function changes(InputInterface $input): bool
    {
        return true;
    }

    protected function carryOut(InputInterface $input): int
    {
        $set = self::knownSet($this->workload($input), (string) $input->getArgument('set'));
        $name = (string) $input->getOption('to');
        $store =
            $name === ''
                ? throw new InvalidArgumentException('Say with --to which store it is to be copied to.')
                : self::knownStore($name);
        $copy = CopyOn::make($set, $store);
        $this->answer(
            ['set' => $set->name, 'store' => $store->name, 'state' => $copy->state, 'bytes' => $copy->bytes],
            fn (): array => ["{$set->name} is on {$store->name}, and right."],
        );

        return self::DONE;
    }
}
