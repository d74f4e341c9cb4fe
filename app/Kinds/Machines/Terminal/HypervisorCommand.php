<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Console\CommandLine\NoServer;
use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Line\LineAddress;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Hypervisor\HostRoom;
use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Hypervisor\Storage;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class HypervisorCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('hypervisor')
            ->setDescription('Makes a hypervisor known, and tries it out; or lists those that are known, with what they have free')
            ->addArgument('what', InputArgument::REQUIRED, 'add, or list')
            ->addArgument('hypervisor', InputArgument::OPTIONAL, 'its name')
            ->addOption('folder', null, InputOption::VALUE_REQUIRED, 'the folder of this machine in which it answers')
            ->addOption('site', null, InputOption::VALUE_REQUIRED, 'where it is; without it as it was, and boathouse at first')
            ->addOption('line-network', null, InputOption::VALUE_REQUIRED, 'a network there from which machines reach this desk')
            ->addOption('line', null, InputOption::VALUE_REQUIRED, 'with it: where they reach that, as HOST:PORT');
    }

    protected function changes(InputInterface $input): bool
    {
        return $input->getArgument('what') === 'add';
    }

    protected function carryOut(InputInterface $input): int
    {
        match ($input->getArgument('what')) {
            'list' => $this->list(),
            'add' => $this->add($input),
            default => throw new InvalidArgumentException('It is "hypervisor add NAME --folder=FOLDER" or "hypervisor list".'),
        };

        return self::DONE;
    }

    private function list(): void
    {
        $told = [];
        foreach (HypervisorHost::query()->orderBy('name')->get() as $host) {
            try {
                $room = $host->look()->room;
                $told[] = ['hypervisor' => $host->name, 'site' => $host->site, 'room' => $room->toArray(), 'words' => self::words($room)];
            } catch (HypervisorFailure $failure) {
                $told[] = ['hypervisor' => $host->name, 'site' => $host->site, 'room' => null, 'words' => $failure->getMessage()];
            }
        }
        $this->answer(
            ['hypervisors' => array_map(fn (array $one): array => array_diff_key($one, ['words' => 0]), $told)],
            fn (): array => $told === []
                ? ['No hypervisor is known yet: kaiseki hypervisor add NAME --folder=FOLDER']
                : array_map(fn (array $one): string => "{$one['hypervisor']}  {$one['site']}  {$one['words']}", $told),
        );
    }

    private static function words(HostRoom $room): string
    {
        $storages = array_map(
            fn (Storage $storage): string => "{$storage->name} ".
                Words::size($storage->free).
                ' of '.
                Words::size($storage->size).
                ' free',
            $room->storages,
        );

        return "memory {$room->memoryFree} of {$room->memory} MiB free, {$room->slotsFree} of {$room->slots} machines more, ".
            implode(', ', $storages).
            '; networks '.
            implode(', ', $room->networks);
    }

    private function add(InputInterface $input): void
    {
        $name = (string) ($input->getArgument('hypervisor') ?? throw new InvalidArgumentException('Give the hypervisor a name.'));
        if (preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D', $name) !== 1) {
            throw new InvalidArgumentException(
                'The name of a hypervisor has letters, digits, dots, dashes and underscores, and at most 100 of them.',
            );
        }
        $folder = rtrim(
            (string) ($input->getOption('folder') ?? throw new InvalidArgumentException('Say with --folder where it answers.')),
            '/',
        );
        if (! str_starts_with($folder, '/') || strlen($folder) > 90) {
            throw new InvalidArgumentException(
                '--folder is a whole path, of 90 characters at most: a socket in it can have no longer one.',
            );
        }
        $host = HypervisorHost::query()->firstOrNew(['name' => $name]);
        $host->fill(['folder' => $folder, 'site' => (string) ($input->getOption('site') ?? $host->site ?? 'boathouse')]);
        $this->line($host, $input);
        try {
            $room = $host->open()->room();
            $host->line_network === null || in_array($host->line_network, $room->networks, true)
                || throw new InvalidArgumentException("$name has no network {$host->line_network}.");
            $host->save(); // only when it works
            TrailEntry::add("The hypervisor $name, which answers in $folder, was made known.", null, null, sort: TrailSort::Rule);
            $host->look();
        } catch (HypervisorFailure $failure) {
            throw new NoServer($failure->getMessage());
        }
        $this->answer(
            ['hypervisor' => $name, 'works' => true, 'room' => $room->toArray(), 'line' => $host->line],
            fn (): array => [
                "$name answers: ".self::words($room).'.',
                ...$host->line === null ? [] : ["From its network {$host->line_network}, this desk is at {$host->line}."],
            ],
        );
    }

    /** What was said before of how machines there reach this desk stays, where nothing else is said. */
    private function line(HypervisorHost $host, InputInterface $input): void
    {
        [$network, $line] = [$input->getOption('line-network'), $input->getOption('line')];
        if ($network === null && $line === null) {
            return;
        }
        $network !== null && $line !== null && LineAddress::isOne((string) $line)
            || throw new InvalidArgumentException('Say both: --line-network=NETWORK, and --line=HOST:PORT.');
        $host->fill(['line_network' => (string) $network, 'line' => (string) $line]);
    }
}
