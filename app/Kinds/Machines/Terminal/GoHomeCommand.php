<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Home\GoHome;
use App\Kinds\Machines\Home\HomeOrder;
use App\Kinds\Machines\Home\HomeWish;
use App\Kinds\Machines\Home\Substitute;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Models\Run;
use Carbon\CarbonImmutable;
use InvalidArgumentException;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Brings a machine that stands in home. */
final class GoHomeCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('go-home')
            ->setDescription('Brings a machine that stands in for one elsewhere home, with what came since; put-back is the way back')
            ->addArgument('run', InputArgument::REQUIRED, 'the number of the run that brought it to where it stands in')
            ->addOption('at', null, InputOption::VALUE_REQUIRED, 'begin at this time, and not now')
            ->addOption('on', null, InputOption::VALUE_REQUIRED, 'the hypervisor that is its home now; without it that of its original')
            ->addOption('storage', null, InputOption::VALUE_REQUIRED, 'the storage at home for its disks')
            ->addOption('network', null, InputOption::VALUE_REQUIRED, 'the network at home for its cards; without it those they were on')
            ->addOption('address', null, InputOption::VALUE_REQUIRED, 'its address there, if its names shall not lead to the one before')
            ->addOption('set-aside', null, InputOption::VALUE_NONE, 'set what stands there aside, and bring all of it anew');
    }

    protected function carryOut(InputInterface $input): int
    {
        $number = (string) $input->getArgument('run');
        $run = Run::query()->find((int) $number);
        $substitute = $run === null ? null : Substitute::active($run);
        $substitute ?? throw new InvalidArgumentException("Nothing that run $number brought stands in; \"standing\" lists what does.");
        $wish = new HomeWish(
            (string) $input->getOption('on'),
            (string) $input->getOption('storage'),
            (string) $input->getOption('network'),
            (bool) $input->getOption('set-aside'),
            (string) $input->getOption('address'),
        );
        $goHome = new GoHome($substitute);
        try {
            HomeOrder::of($substitute, $wish)->home()->lookIfItAnswers();
            if ($input->getOption('at') !== null) {
                $at = CarbonImmutable::instance(Instant::parse((string) $input->getOption('at'))->in());
                $goHome->orderAt($at, $wish, null);
                $told = ['home_at' => $at->format('Y-m-d\TH:i:s\Z')];
                $this->answer($told, fn (): array => ["It is brought home from {$at->format('j M Y H:i T')} on."]);

                return self::DONE;
            }
            $home = $goHome->order($wish, null);
        } catch (CannotBring $cannot) {
            return $this->blocked($cannot->getMessage());
        }
        (new MachineCarrier($this->talk()->progress(...)))->carryOut($home);

        return OfStanding::answer($home->refresh(), 'is home', $this->answer(...));
    }
}
