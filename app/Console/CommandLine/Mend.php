<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Care\Mending;
use App\Models\Copy;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Mend extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('mend')
            ->setDescription('Makes a damaged or missing copy right again from the other copies')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addArgument('set', InputArgument::REQUIRED, 'the set')
            ->addOption('store', null, InputOption::VALUE_REQUIRED, 'the store whose copy is to be mended');
    }

    protected function changes(InputInterface $input): bool
    {
        return true;
    }

    protected function carryOut(InputInterface $input): int
    {
        $set = self::knownSet($this->workload($input), (string) $input->getArgument('set'));
        $store = self::knownStore((string) $input->getOption('store'));
        $copy =
            Copy::query()->where('set_id', $set->id)->where('store_id', $store->id)->first() ??
            throw new InvalidArgumentException("{$set->name} has no copy on {$store->name}.");
        $check = (new Mending)->mend($copy);
        $this->answer(
            ['set' => $set->name, 'store' => $check->store_name, 'result' => $check->result, 'because' => $check->because],
            fn (): array => [
                "{$set->name} is on {$check->store_name}: {$check->result}".($check->because === null ? '.' : ". {$check->because}"),
            ],
        );

        return $check->isRight() ? self::DONE : self::NOT_ALL_RIGHT;
    }
}
