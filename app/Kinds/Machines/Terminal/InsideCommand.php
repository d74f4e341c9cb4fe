<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Annex\AnnexChange;
use App\Kinds\Machines\Order\CannotBring;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Does something in a machine that is in an annex; it is listed with what, why and who. */
final class InsideCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('inside')
            ->setDescription('Runs a program in a machine that is in an annex, by its agent, or types at its serial line')
            ->addOption('why', null, InputOption::VALUE_REQUIRED, 'why it is done: it is listed with it')
            ->addOption('type', null, InputOption::VALUE_REQUIRED, 'a line that is typed at its serial line instead');
        OfStanding::describe($this);
        $this->addArgument('program', InputArgument::IS_ARRAY, 'the program and its arguments, behind --');
    }

    protected function carryOut(InputInterface $input): int
    {
        $typed = $input->getOption('type');
        $program = array_map(strval(...), array_values((array) $input->getArgument('program')));
        if (($typed !== null) === ($program !== [])) {
            throw new InvalidArgumentException('Name a program with its arguments, or say --type=TEXT.');
        }
        $standing = OfStanding::said($input);
        $marked = $standing->run->marked();
        $marked === null || self::refuseMarked($marked, 'changing anything in it');
        try {
            $change = $typed !== null
                ? AnnexChange::order($standing, AnnexChange::TYPE, [(string) $typed], (string) $input->getOption('why'), null)
                : AnnexChange::order($standing, AnnexChange::RUN, $program, (string) $input->getOption('why'), null);
        } catch (CannotBring $cannot) {
            return $this->blocked($cannot->getMessage());
        }
        $change->carryOut();
        $this->answer(AnnexCommand::toldChange($change), fn (): array => explode("\n", (string) $change->result));

        return $change->state === AnnexChange::DONE ? self::DONE : self::NOT_ALL_RIGHT;
    }
}
