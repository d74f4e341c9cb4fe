<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Annex\Release;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Run\MachineCarrier;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Releases a machine out of its annex. */
final class ReleaseCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('release')
            ->setDescription('Puts a machine that stands in an annex on the networks that it was stood up for')
            ->addOption('unscanned', null, InputOption::VALUE_NONE, 'also if nobody has scanned it')
            ->addOption('set-aside', null, InputOption::VALUE_NONE, 'end a machine that has its name there, and set it aside');
        OfStanding::describe($this);
    }

    protected function carryOut(InputInterface $input): int
    {
        $standing = OfStanding::said($input);
        $standing->hypervisor->lookIfItAnswers();
        $setsAside = (bool) $input->getOption('set-aside');
        try {
            $run = (new Release($standing))->order($setsAside, (bool) $input->getOption('unscanned'), null);
        } catch (CannotBring $cannot) {
            return $this->blocked($cannot->getMessage());
        }
        (new MachineCarrier($this->talk()->progress(...)))->carryOut($run);

        return OfStanding::answer($run->refresh(), 'is out of its annex', $this->answer(...));
    }
}
