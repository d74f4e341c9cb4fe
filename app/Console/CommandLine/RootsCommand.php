<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Hosts\Walls;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;

/** Folders of hosts of this machine that root gave to Kaiseki. Giving itself is done by bin/walls/command, before this; here it is told. */
final class RootsCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('roots')
            ->setDescription('The folders of this machine in which things may be read and brought back; root gives and takes them')
            ->addArgument('do', InputArgument::OPTIONAL, 'give, take, or nothing to list them')
            ->addArgument('folder', InputArgument::OPTIONAL)
            ->addArgument('host', InputArgument::OPTIONAL, 'the host it is of, as host-add names it', Walls::HERE);
    }

    protected function changes(InputInterface $input): bool
    {
        return $input->getArgument('do') !== null;
    }

    protected function carryOut(InputInterface $input): int
    {
        $do = $input->getArgument('do');
        if (! in_array($do, [null, 'give', 'take'], true)) {
            throw new InvalidArgumentException("\"$do\" is nothing that can be done with roots; give and take can.");
        }
        if (! Walls::stand() && $do !== null) {
            throw new InvalidArgumentException(
                'Kaiseki runs as one account here, and may open what that account may: nothing is given or taken.',
            );
        }
        if ($do !== null) {
            $this->tell($do === 'give', (string) $input->getArgument('folder'), (string) $input->getArgument('host'));
        }
        $rows = array_map(fn (array $given): array => ['host' => $given[0], 'folder' => $given[1]], Walls::given());
        $this->answer(
            ['walls' => Walls::stand(), 'roots' => $rows],
            fn (): array => match (true) {
                ! Walls::stand() => ['Kaiseki runs as one account here, and may open what that account may.'],
                $rows === [] => ['Nothing was given.'],
                default => array_map(fn (array $row): string => "{$row['host']}  {$row['folder']}", $rows),
            },
        );

        return self::DONE;
    }

    private function tell(bool $isGiven, string $folder, string $host): void
    {
        $folder = rtrim((string) (realpath($folder) ?: $folder), '/');
        $isThere = array_filter(Walls::given(), fn (array $given): bool => [$given[0], $given[1]] === [$host, $folder]) !== [];
        if ($isThere !== $isGiven) {
            throw new InvalidArgumentException('Only root gives folders of this machine, and takes them back.');
        }
        TrailEntry::add(
            "The folder $folder of the host $host was ".($isGiven ? 'given to Kaiseki.' : 'taken back from Kaiseki.'),
            null,
            null,
            sort: TrailSort::Rule,
        );
    }
}
