<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Console\CommandLine\NoServer;
use App\Kinds\Machines\Machines;
use App\Kinds\Machines\Names\MachineName;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Models\Workload;
use InvalidArgumentException;
use Kaiseki\Core\Names\DomainName;
use Kaiseki\Core\Names\NameFailure;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Names by which others reach machines. */
final class MachineNameCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('machine-name')
            ->setDescription('Says by which name in the domain name system others reach a machine; it leads to what stands in for it')
            ->addArgument('what', InputArgument::REQUIRED, 'add, or remove; "name-server list" shows all')
            ->addArgument('name', InputArgument::REQUIRED, 'the name, with its domain')
            ->addOption('of', null, InputOption::VALUE_REQUIRED, 'with "add": the workload that is the machine');
    }

    protected function carryOut(InputInterface $input): int
    {
        try {
            $name = DomainName::of((string) $input->getArgument('name'));
        } catch (NameFailure $failure) {
            throw new InvalidArgumentException(ucfirst($failure->getMessage()).'.');
        }
        match ($input->getArgument('what')) {
            'add' => $this->add($name, (string) $input->getOption('of')),
            'remove' => $this->remove($name),
            default => throw new InvalidArgumentException('It is "machine-name add NAME --of=WORKLOAD" or "machine-name remove NAME".'),
        };

        return self::DONE;
    }

    private function add(DomainName $said, string $of): void
    {
        $workload = Workload::query()->where(['name' => $of, 'kind' => Machines::NAME])->first()
            ?? throw new InvalidArgumentException("There is no machine \"$of\" among the workloads: say with --of which it is.");
        try {
            $name = MachineName::known($workload, $said->name);
        } catch (NameFailure $failure) {
            throw new NoServer($failure->getMessage());
        }
        TrailEntry::add("{$name->name} is a name of $of.", null, null, workload: $workload, sort: TrailSort::Rule);
        $leads = $name->leadsTo();
        $this->answer(
            ['name' => $name->name, 'workload' => $of, 'server' => $name->server->name] + $leads->toArray(),
            fn (): array => ["{$name->name} is a name of $of; it leads to {$leads->words()}, as {$name->server->name} says."],
        );
    }

    private function remove(DomainName $said): void
    {
        $name = MachineName::query()->where('name', $said->name)->with('workload')->first()
            ?? throw new InvalidArgumentException("{$said->name} is no name of a machine; \"name-server list\" shows those there are.");
        $name->delete();
        $told = "{$name->name} is no name of {$name->workload->name} any more; what it leads to stays as it is.";
        TrailEntry::add($told, null, null, workload: $name->workload, sort: TrailSort::Rule);
        $this->answer(['removed' => $name->name], fn (): array => [$told]);
    }
}
