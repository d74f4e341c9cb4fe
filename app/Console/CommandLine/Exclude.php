<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Sets\LeftOut;
use InvalidArgumentException;
use Kaiseki\Core\Protect\Exclusion;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class Exclude extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('exclude')
            ->setDescription('Says what the sets of a workload leave out on purpose; without a pattern: shows it')
            ->addArgument('name', InputArgument::REQUIRED, 'the workload')
            ->addArgument('pattern', InputArgument::OPTIONAL, 'a path from the top of the tree as "/logs/old", or a name as "*.tmp"')
            ->addOption('because', null, InputOption::VALUE_REQUIRED, 'why, in a few words; it stands with each set')
            ->addOption('remove', null, InputOption::VALUE_NONE, 'it is not left out any more');
    }

    protected function changes(InputInterface $input): bool
    {
        return true;
    }

    protected function carryOut(InputInterface $input): int
    {
        $workload = $this->workload($input);
        $pattern = $input->getArgument('pattern');
        if ($pattern === null && ($input->getOption('remove') || $input->getOption('because') !== null)) {
            throw new InvalidArgumentException('Say what: a path as "/logs/old", or a name as "*.tmp".');
        }
        if ($pattern !== null && $input->getOption('remove')) {
            LeftOut::end($workload, (string) $pattern, null);
        } elseif ($pattern !== null) {
            $one = Exclusion::of((string) $pattern, (string) $input->getOption('because'));
            self::refuseMarked($workload, 'leaving out some of it');
            LeftOut::add($workload, $one, null);
        }
        $all = LeftOut::of($workload);
        $this->answer(
            ['workload' => $workload->name, 'excluded' => $all->toArray()],
            fn (): array => $all->all === []
                ? ["Sets of {$workload->name} leave nothing out."]
                : array_map(fn (Exclusion $one): string => "{$one->pattern}  {$one->because}", $all->all),
        );

        return self::DONE;
    }
}
