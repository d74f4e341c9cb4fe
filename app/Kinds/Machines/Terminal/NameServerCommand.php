<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Console\CommandLine\NoServer;
use App\Kinds\Machines\Names\MachineName;
use App\Kinds\Machines\Names\NameServerHost;
use App\Models\TrailEntry;
use App\Models\TrailSort;
use InvalidArgumentException;
use Kaiseki\Core\Names\Addresses;
use Kaiseki\Core\Names\DomainName;
use Kaiseki\Core\Names\NameFailure;
use Kaiseki\Core\Names\TransactionKey;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Name servers that can be had lead names of machines elsewhere. */
final class NameServerCommand extends KaisekiCommand
{
    private const PORT = 53;

    protected function configure(): void
    {
        parent::configure();
        $this->setName('name-server')
            ->setDescription('Makes a name server known, by which names of machines lead to where those are; lists them; forgets one')
            ->addArgument('what', InputArgument::REQUIRED, 'add, list, or remove')
            ->addArgument('server', InputArgument::OPTIONAL, 'its name')
            ->addOption('address', null, InputOption::VALUE_REQUIRED, 'its address, with a port if that is not 53: 192.0.2.1:5353')
            ->addOption('zone', null, InputOption::VALUE_REQUIRED, 'the zone that it is the server of')
            ->addOption('key', null, InputOption::VALUE_REQUIRED, 'a file with the key by which it takes changes (TSIG)');
    }

    protected function changes(InputInterface $input): bool
    {
        return in_array($input->getArgument('what'), ['add', 'remove'], true);
    }

    protected function carryOut(InputInterface $input): int
    {
        try {
            match ($input->getArgument('what')) {
                'list' => $this->list(),
                'add' => $this->add($input),
                'remove' => $this->remove(self::named($input)),
                default => throw new InvalidArgumentException('It is "name-server add NAME", "list" or "remove NAME".'),
            };
        } catch (NameFailure $failure) {
            throw new NoServer($failure->getMessage());
        }

        return self::DONE;
    }

    private function list(): void
    {
        $told = [];
        foreach (NameServerHost::query()->orderBy('name')->get() as $server) {
            $names = MachineName::query()->where('name_server_id', $server->id)->with('workload', 'server')->orderBy('name')->get();
            $told[] = [
                'server' => $server->name, 'address' => $server->address, 'port' => $server->port, 'zone' => $server->zone,
                'names' => $names->map(self::name(...))->all(),
            ];
        }
        $this->answer(['servers' => $told], fn (): array => $told === []
            ? ['No name server is known yet: kaiseki name-server add NAME --address=ADDRESS --zone=ZONE --key=FILE']
            : array_merge(...array_map(self::lines(...), $told)));
    }

    /** @return array<string, mixed> */
    private static function name(MachineName $name): array
    {
        try {
            [$leads, $failure] = [$name->look(), null];
        } catch (NameFailure $silent) {
            [$leads, $failure] = [$name->leadsTo(), $silent->getMessage()];
        }

        return ['name' => $name->name, 'workload' => $name->workload->name] + $leads->toArray() + ['failure' => $failure];
    }

    /**
     * @param  array<string, mixed>  $server
     * @return list<string>
     */
    private static function lines(array $server): array
    {
        $lines = ["{$server['server']}  {$server['zone']}  {$server['address']} port {$server['port']}"];
        foreach ($server['names'] as $name) {
            $lines[] = "  {$name['name']}  {$name['workload']}  ".Addresses::fromArray($name)->words().
                ($name['failure'] === null ? '' : "  as seen last: {$name['failure']}");
        }

        return $lines;
    }

    private function add(InputInterface $input): void
    {
        $name = (string) ($input->getArgument('server') ?? throw new InvalidArgumentException('Give the name server a name.'));
        preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D', $name) === 1 || throw new InvalidArgumentException(
            'The name of a name server has letters, digits, dots, dashes and underscores, and at most 100 of them.',
        );
        $server = NameServerHost::query()->firstOrNew(['name' => $name]);
        try {
            [$address, $port] = self::address(self::said($input, 'address'));
            $zone = DomainName::of(self::said($input, 'zone'));
            $key = TransactionKey::ofFile(self::said($input, 'key'));
        } catch (NameFailure $failure) {
            throw new InvalidArgumentException(ucfirst($failure->getMessage()).'.');
        }
        $other = NameServerHost::query()->where('zone', $zone->name)->where('name', '<>', $name)->value('name');
        $other === null || throw new InvalidArgumentException("The name server of {$zone->name} is $other: remove that one first.");
        $server->fill([
            'address' => $address, 'port' => $port, 'zone' => $zone->name,
            'key_name' => $key->name, 'algorithm' => $key->algorithm, 'secret' => $key->secret,
        ]);
        $server->open()->addresses($zone);
        $server->save(); // only when it answers
        TrailEntry::add("The name server $name, of {$zone->name}, was made known.", null, null, sort: TrailSort::Rule);
        $this->answer(
            ['server' => $name, 'zone' => $zone->name, 'works' => true],
            fn (): array => ["$name answers, and is that of {$zone->name}. Whether it takes changes is seen when the first is made."],
        );
    }

    private static function said(InputInterface $input, string $option): string
    {
        return (string) ($input->getOption($option) ?? throw new InvalidArgumentException("Say --$option as well."));
    }

    /**
     * @return array{string, int}
     *
     * @throws NameFailure
     */
    private static function address(string $said): array
    {
        $isWithPort = preg_match('/^(?:\[([^\]]+)\]|([^:]+)):(\d{1,5})$/D', $said, $parts) === 1;
        $port = $isWithPort ? (int) $parts[3] : self::PORT;
        ($port > 0 && $port < 65536) || throw NameFailure::because("there is no port $port");

        return [Addresses::of([$isWithPort ? $parts[1].$parts[2] : $said])->all[0], $port];
    }

    private static function named(InputInterface $input): NameServerHost
    {
        $name = (string) $input->getArgument('server');

        return NameServerHost::query()->where('name', $name)->first()
            ?? throw new InvalidArgumentException("There is no name server \"$name\"; \"name-server list\" shows those there are.");
    }

    private function remove(NameServerHost $server): void
    {
        $names = MachineName::query()->where('name_server_id', $server->id)->count();
        $server->delete();
        TrailEntry::add("The name server {$server->name}, of {$server->zone}, was forgotten.", null, null, sort: TrailSort::Rule);
        $this->answer(
            ['removed' => $server->name, 'names' => $names],
            fn (): array => ["{$server->name} is not known any more; what its names lead to stays as it is."],
        );
    }
}
