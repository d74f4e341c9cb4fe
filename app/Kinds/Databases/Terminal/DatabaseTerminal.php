<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Terminal;

use App\Kinds\Databases\Databases;
use App\Kinds\Databases\Order\DatabaseHandSheet;
use App\Kinds\Databases\Order\DatabasePoints;
use App\Kinds\Databases\Order\Stop;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Talk;
use App\Kinds\Terminal;
use App\Kinds\Told;
use App\Models\Workload;
use InvalidArgumentException;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Databases on the command line. */
final class DatabaseTerminal implements Terminal
{
    public function commands(): array
    {
        return [new ServerCommand, new TransactionList];
    }

    public function takes(): array
    {
        return ['transactions'];
    }

    public function describe(Command $command): void
    {
        match ($command->getName()) {
            'restore' => DatabaseRestore::describe($command),
            'hand-sheet' => $command->addOption(
                'at',
                null,
                InputOption::VALUE_REQUIRED,
                'as it was at this moment; without it, as the logs end',
            ),
            'protect' => $command->addOption(
                'server',
                null,
                InputOption::VALUE_REQUIRED,
                'the database server that is protected, made known with "server add"',
            ),
            default => null,
        };
    }

    public function restore(Workload $workload, InputInterface $input, Talk $talk): Told
    {
        return DatabaseRestore::carryOut($workload, $input, $talk);
    }

    public function handSheet(Workload $workload, InputInterface $input): array
    {
        $points = new DatabasePoints($workload);
        $at = $input->getOption('at');
        $reaches = $points->reach($at === null ? Stop::newest() : Stop::at(Instant::parse((string) $at)), $points->schemas());

        return [$reaches[0]->dump->name ?? '', [(new DatabaseHandSheet($points, $reaches, [], ''))->script()]];
    }

    public function sourceSaid(InputInterface $input, string $name, ?Workload $known): ?Workload
    {
        $named = $input->hasOption('server') ? $input->getOption('server') : null;
        if ($named === null) {
            return null;
        }
        $server =
            DatabaseServer::query()->where('name', $named)->first() ??
            throw new InvalidArgumentException("There is no server named \"$named\".");
        if (($known !== null && $known->kind !== Databases::NAME) || ! Workload::canBeNamed($name)) {
            throw new InvalidArgumentException("\"$name\" cannot be the name of a database here.");
        }
        $workload = Workload::query()->updateOrCreate(['name' => $name], ['kind' => Databases::NAME, 'site' => $server->site]);
        $server->holds($workload);

        return $workload;
    }
}
