<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Home\StandIn;
use App\Kinds\Machines\Names\LedName;
use App\Kinds\Machines\Order\CannotBring;
use App\Models\Run;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** A machine that was brought back elsewhere is the original from now on. */
final class StandInCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('stand-in')
            ->setDescription('Has a machine that was brought back at another hypervisor be the original for now; see go-home')
            ->addArgument('run', InputArgument::REQUIRED, 'the number of the run that brought it back')
            ->addOption('address', null, InputOption::VALUE_REQUIRED, 'its address there, to which its names lead from now on')
            ->addOption('home-is-down', null, InputOption::VALUE_NONE, 'the original cannot be asked, and was seen to be down');
    }

    protected function carryOut(InputInterface $input): int
    {
        $number = (string) $input->getArgument('run');
        $run = Run::query()->find((int) $number) ?? throw new InvalidArgumentException("There is no run $number.");
        try {
            $substitute = (new StandIn($run))->begin(
                (bool) $input->getOption('home-is-down'),
                null,
                (string) $input->getOption('address'),
            );
        } catch (CannotBring $cannot) {
            return $this->blocked($cannot->getMessage());
        }
        $told = [
            'run' => $run->id, 'machine' => $substitute->machine, 'on' => $substitute->hypervisor->name,
            'for' => $substitute->home_machine, 'home' => $substitute->home->name, 'names' => $substitute->names ?? [],
        ];
        $this->answer($told, fn (): array => [
            "{$told['machine']} at {$told['on']} stands in for {$told['for']} at {$told['home']}: sets are made of it. ".
                "\"go-home {$run->id}\" brings it home.",
            ...array_map(fn (LedName $one): string => "{$one->words()}.", $substitute->ledNames()),
        ]);

        return self::DONE;
    }
}
