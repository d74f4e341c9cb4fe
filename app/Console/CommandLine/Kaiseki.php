<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\Kinds;
use Kaiseki\Core\Catalog\Shown;
use Symfony\Component\Console\Application;
use Symfony\Component\Console\Exception\ExceptionInterface;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Output\ConsoleOutputInterface;
use Symfony\Component\Console\Output\OutputInterface;

/** bin/kaiseki: the same work as in the pages, for terminals and scripts. */
final class Kaiseki extends Application
{
    public function __construct()
    {
        parent::__construct('kaiseki');
        $this->setCatchExceptions(false);
        $this->addCommands([
            new Adopt,
            new PointList,
            new Browse,
            new Find,
            new Restore,
            new HostAdd,
            new AgentCommand,
            new RightsCommand,
            new TrailCommand,
            new AlarmCommand,
            new SetAsideCommand,
            new HandSheet,
            new RootsCommand,
            new CommandsCommand,
            new Resume,
            new PutBackRun,
            new ProofOut,
            new CheckProof,
            new Protect,
            new StoreAdd,
            new CopySet,
            new CartridgeCommand,
            new CheckCommand,
            new Mend,
            new CheckPlan,
            new SignList,
            new VerdictCommand,
            new BadContents,
            new Exclude,
            new Keep,
            new HoldCommand,
            new Expire,
            new ScheduleCommand,
            new KindList,
            new Sources,
            new CatalogCommand,
        ]);
        foreach (Kinds::all() as $kind) {
            $this->addCommands($kind->terminal()->commands());
        }
    }

    public function doRun(InputInterface $input, OutputInterface $output): int
    {
        try {
            return parent::doRun($input, $output);
        } catch (ExceptionInterface $wrongUse) {
            $errors = $output instanceof ConsoleOutputInterface ? $output->getErrorOutput() : $output;
            $errors->writeln(Shown::name($wrongUse->getMessage()), OutputInterface::OUTPUT_RAW);
            if ($input->hasParameterOption('--json', true)) {
                $output->writeln(
                    (string) json_encode(
                        ['error' => mb_scrub($wrongUse->getMessage())],
                        JSON_PRETTY_PRINT | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE,
                    ),
                    OutputInterface::OUTPUT_RAW,
                );
            }

            return KaisekiCommand::WRONG_USE;
        }
    }
}
