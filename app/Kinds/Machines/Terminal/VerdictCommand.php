<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Scan\AnnexFinding;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Says of a file that a scan found what it is. */
final class VerdictCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('verdict')
            ->setDescription('Says of what a scan found whether it is harmless or bad')
            ->addArgument('finding', InputArgument::REQUIRED, 'its number, as scan tells it')
            ->addArgument('verdict', InputArgument::REQUIRED, 'harmless or bad')
            ->addOption('why', null, InputOption::VALUE_REQUIRED, 'why: it is listed with it');
    }

    protected function carryOut(InputInterface $input): int
    {
        $number = (string) $input->getArgument('finding');
        $verdict = (string) $input->getArgument('verdict');
        in_array($verdict, [AnnexFinding::HARMLESS, AnnexFinding::BAD], true) ||
            throw new InvalidArgumentException('A verdict is harmless or bad.');
        $finding = AnnexFinding::query()->find((int) $number) ?? throw new InvalidArgumentException("No scan found a thing $number.");
        $marked = $finding->annex->run->marked();
        $marked === null || self::refuseMarked($marked, 'what may be released of it');
        try {
            $finding->decide($verdict, (string) $input->getOption('why'), null);
        } catch (CannotBring $cannot) {
            return $this->blocked($cannot->getMessage());
        }
        $this->answer(ScanCommand::told($finding), fn (): array => ["{$finding->shownPath()} is $verdict: {$finding->why}"]);

        return self::DONE;
    }
}
