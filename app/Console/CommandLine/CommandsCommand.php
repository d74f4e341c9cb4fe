<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Hosts\CommandList;
use App\Hosts\HostCommand;
use App\Hosts\Walls;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;

/** Commands before and after that root allowed here. Allowing itself is done by bin/walls/command, before this; here it is told. */
final class CommandsCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('commands')
            ->setDescription(
                'The commands that may be run on this machine before and after sets and restores; root allows and forbids them',
            )
            ->addArgument('do', InputArgument::OPTIONAL, 'allow, forbid, or nothing to list them')
            ->addArgument(
                'command-line',
                InputArgument::OPTIONAL,
                'a JSON list of its arguments; it is allowed as it stands, with no others',
            )
            ->addArgument('account', InputArgument::OPTIONAL, 'to allow it: the account that it is run as, which is not root');
    }

    protected function changes(InputInterface $input): bool
    {
        return $input->getArgument('do') !== null;
    }

    protected function carryOut(InputInterface $input): int
    {
        $do = $input->getArgument('do');
        if (! in_array($do, [null, 'allow', 'forbid'], true)) {
            throw new InvalidArgumentException("\"$do\" is nothing that can be done with commands; allow and forbid can.");
        }
        if (! Walls::stand() && $do !== null) {
            throw new InvalidArgumentException(
                'Kaiseki runs as one account here, and commands as that account: nothing is allowed or forbidden.',
            );
        }
        if ($do !== null) {
            $this->tell($do === 'allow', CommandList::json(HostCommand::parse((string) $input->getArgument('command-line'))));
        }
        $rows = array_map(fn (array $one): array => ['account' => $one[0], 'command' => json_decode($one[1], true)], CommandList::all());
        $this->answer(
            ['walls' => Walls::stand(), 'commands' => $rows],
            fn (): array => match (true) {
                ! Walls::stand() => ['Kaiseki runs as one account here, and commands as that account.'],
                $rows === [] => ['No command is allowed.'],
                default => array_map(fn (array $row): string => "{$row['account']}  ".CommandList::json($row['command']), $rows),
            },
        );

        return self::DONE;
    }

    private function tell(bool $isAllowed, string $json): void
    {
        $account = array_column(CommandList::all(), 0, 1)[$json] ?? null;
        if (($account !== null) !== $isAllowed) {
            throw new InvalidArgumentException('Only root allows commands on this machine, and forbids them.');
        }
        TrailEntry::add(
            "The command $json was ".($isAllowed ? "allowed on this machine, as $account." : 'forbidden on this machine.'),
            null,
            null,
            sort: TrailSort::Rule,
        );
    }
}
