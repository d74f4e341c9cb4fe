<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Hosts\HostKey;
use App\Hosts\Hosts;
use App\Hosts\Walls;
use App\Models\Host;
use InvalidArgumentException;
use Kaiseki\Core\Files\UnableToRestore;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class HostAdd extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('host-add')
            ->setDescription('Makes a host known that things can be brought back to, and tries it out')
            ->addArgument('host', InputArgument::REQUIRED, 'its name')
            ->addOption('folder', null, InputOption::VALUE_REQUIRED, 'the folder of it that may be written to')
            ->addOption(
                'sftp',
                null,
                InputOption::VALUE_REQUIRED,
                'USER@ADDRESS or USER@ADDRESS:PORT; the password comes from KAISEKI_HOST_PASSWORD, or a key from --key',
            )
            ->addOption('key', null, InputOption::VALUE_REQUIRED, 'a file with the private key')
            ->addOption('fingerprint', null, InputOption::VALUE_REQUIRED, 'of the host key, as ssh-keygen -l prints it: SHA256:...')
            ->addOption('site', null, InputOption::VALUE_REQUIRED, 'where it is', 'boathouse');
    }

    protected function carryOut(InputInterface $input): int
    {
        $name = (string) $input->getArgument('host');
        if ($name === Walls::HERE) {
            throw new InvalidArgumentException('"here" is this machine where no host is named; give it another name.');
        }
        if (preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D', $name) !== 1) {
            throw new InvalidArgumentException(
                'The name of a host has letters, digits, dots, dashes and underscores, and at most 100 of them.',
            );
        }
        $folder = (string) ($input->getOption('folder') ?? throw new InvalidArgumentException('Say with --folder what may be written to.'));
        if ($folder[0] !== '/') {
            throw new InvalidArgumentException('--folder is an absolute path.');
        }
        $host = new Host(
            ['name' => $name, 'site' => (string) $input->getOption('site'), 'folder' => rtrim($folder, '/') ?: '/'] +
                $this->reached($input),
        );
        $key = $host->kind === 'sftp' ? self::key($input) : null;
        $known = Host::query()->where('name', $name)->first();
        $attributes = $host->getAttributes();
        $host = $known ?? $host;
        $host->fill($attributes);
        if ($key !== null) {
            Hosts::keepKey($host, $key);
        }
        Hosts::test($host); // saved only when it works
        $this->answer(
            ['host' => $name, 'kind' => $host->kind, 'folder' => $host->folder, 'site' => $host->site, 'works' => true],
            fn (): array => ["$name works: a file was written, read and removed in {$host->folder}."],
        );

        return self::DONE;
    }

    /** @return array<string, mixed> */
    private function reached(InputInterface $input): array
    {
        $sftp = $input->getOption('sftp');
        if ($sftp === null) {
            return ['kind' => 'folder', 'address' => null, 'port' => null, 'user' => null, 'fingerprint' => null];
        }
        if (preg_match('/^([^@\s]+)@([A-Za-z0-9._-]+|\[[0-9A-Fa-f:]+\])(?::(\d{1,5}))?$/D', (string) $sftp, $m) !== 1) {
            throw new InvalidArgumentException('--sftp is USER@ADDRESS or USER@ADDRESS:PORT.');
        }
        $fingerprint =
            (string) ($input->getOption('fingerprint') ??
                throw new InvalidArgumentException(
                    'Give the fingerprint of the host key with --fingerprint, so that no other machine is taken for it. On the host: '.
                        'ssh-keygen -lf /etc/ssh/ssh_host_ed25519_key.pub',
                ));
        if (preg_match('#^SHA256:[A-Za-z0-9+/]{43}=?$#D', $fingerprint) !== 1) {
            throw new InvalidArgumentException('--fingerprint begins with SHA256: and has 43 letters after it.');
        }

        return [
            'kind' => 'sftp',
            'user' => $m[1],
            'address' => trim($m[2], '[]'),
            'port' => (int) ($m[3] ?? 22),
            'fingerprint' => $fingerprint,
        ];
    }

    private static function key(InputInterface $input): HostKey
    {
        $file = $input->getOption('key');
        $private = $file === null ? null : @file_get_contents((string) $file);
        if ($private === false) {
            throw new InvalidArgumentException("The key \"$file\" cannot be read.");
        }
        $password = getenv('KAISEKI_HOST_PASSWORD');
        if ($private === null && ($password === false || $password === '')) {
            throw UnableToRestore::targetUnfit(
                (string) $input->getArgument('host'),
                'give a password in KAISEKI_HOST_PASSWORD, or a key with --key',
            );
        }

        return new HostKey($private === null ? (string) $password : null, $private);
    }
}
