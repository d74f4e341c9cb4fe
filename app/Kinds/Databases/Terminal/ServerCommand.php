<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Console\CommandLine\NoServer;
use App\Kinds\Databases\Databases;
use App\Kinds\Databases\Server\CannotReachServer;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Databases\Server\Question;
use App\Kinds\Databases\Server\ServerFacts;
use App\Kinds\Databases\Server\ServerLink;
use App\Models\Workload;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class ServerCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('server')
            ->setDescription('Makes a database server known, and tries it out; or lists those that are known')
            ->addArgument('what', InputArgument::REQUIRED, 'add, or list')
            ->addArgument('server', InputArgument::OPTIONAL, 'its name; a workload may bear the same')
            ->addOption('host', null, InputOption::VALUE_REQUIRED, 'its address', '127.0.0.1')
            ->addOption('port', null, InputOption::VALUE_REQUIRED, 'its port', '3306')
            ->addOption(
                'user',
                null,
                InputOption::VALUE_REQUIRED,
                'the account to use; its password comes from KAISEKI_SERVER_PASSWORD, or is asked for',
            )
            ->addOption(
                'asking-user',
                null,
                InputOption::VALUE_REQUIRED,
                'an account that can only read, by which questions are asked, with its password in KAISEKI_ASKING_PASSWORD; '.
                    'without it one is made for each question',
            )
            ->addOption('site', null, InputOption::VALUE_REQUIRED, 'where it is', 'boathouse');
    }

    protected function carryOut(InputInterface $input): int
    {
        match ($input->getArgument('what')) {
            'list' => $this->list(),
            'add' => $this->add($input),
            default => throw new InvalidArgumentException('It is "server add NAME" or "server list".'),
        };

        return self::DONE;
    }

    private function list(): void
    {
        $servers = DatabaseServer::query()->orderBy('name')->get();
        $this->answer(
            [
                'servers' => $servers
                    ->map(
                        fn (DatabaseServer $server): array => [
                            'server' => $server->name,
                            'host' => $server->host,
                            'port' => $server->port,
                            'user' => $server->user,
                            'version' => $server->facts['version'] ?? null,
                        ],
                    )
                    ->all(),
            ],
            fn (): array => $servers->isEmpty()
                ? ['No server is known yet: kaiseki server add NAME --host= --port= --user=']
                : $servers
                    ->map(
                        fn (DatabaseServer $server): string => "{$server->name}  {$server->user}@{$server->host}:{$server->port}  ".
                            ($server->facts['version'] ?? ''),
                    )
                    ->all(),
        );
    }

    private function add(InputInterface $input): void
    {
        $server = $this->server($input);
        $facts = self::tryOut($server);
        $server->fill(['facts' => $facts->toArray(), 'asked_at' => now()])->save(); // saved only when it works
        $workload = Workload::query()->where('name', $server->name)->where('kind', Databases::NAME)->first();
        if ($workload !== null && DatabaseServer::of($workload) === null) {
            $server->holds($workload);
        }
        $log = $facts->keepsLog ? "binary log {$facts->logFormat}" : 'no binary log';
        $this->answer(
            ['server' => $server->name, 'works' => true] + $facts->toArray(),
            fn (): array => [
                "{$server->name} answers: {$facts->version}, server id {$facts->serverId}, $log.",
                ...$facts->warnings(),
            ],
        );
    }

    /** As it was said; not saved. */
    private function server(InputInterface $input): DatabaseServer
    {
        $name = (string) ($input->getArgument('server') ?? throw new InvalidArgumentException('Give the server a name.'));
        if (preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D', $name) !== 1) {
            throw new InvalidArgumentException(
                'The name of a server has letters, digits, dots, dashes and underscores, and at most 100 of them.',
            );
        }
        $port = (string) $input->getOption('port');
        $host = (string) $input->getOption('host');
        if (preg_match('/^\d{1,5}$/D', $port) !== 1 || (int) $port < 1 || (int) $port > 65535) {
            throw new InvalidArgumentException('--port is a number from 1 to 65535.');
        }
        if (preg_match('/^[A-Za-z0-9][A-Za-z0-9.:_-]{0,254}$/D', $host) !== 1) {
            throw new InvalidArgumentException('--host is a name or an address.');
        }
        $server = DatabaseServer::query()->firstOrNew(['name' => $name]);
        $server->fill([
            'host' => $host,
            'port' => (int) $port,
            'user' => (string) ($input->getOption('user') ?? throw new InvalidArgumentException('Say with --user which account to use.')),
            'password' => $this->password('KAISEKI_SERVER_PASSWORD', 'Password'),
            'site' => (string) $input->getOption('site'),
        ]);
        $asking = $input->getOption('asking-user');
        if ($asking !== null) {
            $password = $this->password('KAISEKI_ASKING_PASSWORD', "Password of $asking");
            $server->fill(['asking_user' => (string) $asking, 'asking_password' => $password]);
        }

        return $server;
    }

    private static function tryOut(DatabaseServer $server): ServerFacts
    {
        try {
            $facts = ServerFacts::ask(ServerLink::to($server));
            $unfit = $server->isDirty(['asking_user', 'asking_password']) ? Question::unfit($server, $facts->mayGrant) : null;
        } catch (CannotReachServer $cannot) {
            throw new NoServer($cannot->getMessage());
        }
        if ($unfit !== null) {
            throw new InvalidArgumentException(ucfirst($unfit).'. Name one that has SELECT and nothing else.');
        }

        return $facts;
    }

    private function password(string $variable, string $prompt): string
    {
        $password = getenv($variable);
        if ($password !== false) {
            return $password;
        }
        if (! stream_isatty(STDIN)) {
            throw new InvalidArgumentException("Give the password in $variable.");
        }
        fwrite(STDERR, "$prompt: ");
        $hide = new \Symfony\Component\Process\Process(['stty', '-echo']);
        $hide->setTty(true)->run();
        $line = fgets(STDIN);
        $show = new \Symfony\Component\Process\Process(['stty', 'echo']);
        $show->setTty(true)->run();
        fwrite(STDERR, "\n");

        return rtrim((string) $line, "\r\n");
    }
}
