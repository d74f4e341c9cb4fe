<?php

declare(strict_types=1);

namespace Tests\Support;

use RuntimeException;
use Symfony\Component\Process\Process;

/** Debian's OpenSSH server on a free port of loopback, which lets in one key and serves SFTP only. */
final class Sshd
{
    public readonly int $port;

    public readonly string $user;

    public readonly string $key;

    public readonly string $fingerprint;

    private readonly Process $process;

    public function __construct(private readonly Scratch $scratch)
    {
        $folder = $scratch->folder('sshd');
        foreach (['host', 'own', 'stranger'] as $name) {
            $scratch->run('ssh-keygen', '-q', '-t', 'ed25519', '-N', '', '-C', $name, '-f', "$folder/$name");
        }
        copy("$folder/own.pub", "$folder/authorized");
        $socket = stream_socket_server('tcp://127.0.0.1:0');
        assert($socket !== false);
        $this->port = (int) substr((string) strrchr((string) stream_socket_get_name($socket, false), ':'), 1);
        fclose($socket);
        $this->user = posix_getpwuid(posix_geteuid())['name'] ?? 'root';
        $this->key = "$folder/own";
        $this->fingerprint = explode(' ', $scratch->run('ssh-keygen', '-lf', "$folder/host.pub"))[1];
        file_put_contents(
            "$folder/config",
            implode("\n", [
                "Port {$this->port}",
                'ListenAddress 127.0.0.1',
                "HostKey $folder/host",
                "PidFile $folder/pid",
                "AuthorizedKeysFile $folder/authorized",
                'StrictModes no',
                'PermitRootLogin prohibit-password',
                'PasswordAuthentication no',
                'UsePAM no',
                'Subsystem sftp internal-sftp',
                'ForceCommand internal-sftp',
                '',
            ]),
        );
        if (! is_dir('/run/sshd')) {
            mkdir('/run/sshd', 0755);
        }
        $this->process = new Process(['/usr/sbin/sshd', '-D', '-e', '-f', "$folder/config"], null, null, null, null);
        $this->process->start();
        for ($i = 0; $i < 100 && ($open = @fsockopen('127.0.0.1', $this->port)) === false; $i++) {
            if (! $this->process->isRunning()) {
                throw new RuntimeException('sshd: '.$this->process->getErrorOutput());
            }
            usleep(50_000);
        }
        if (($open ?? false) !== false) {
            fclose($open);
        }
    }

    public function strangersKey(): string
    {
        return "{$this->scratch->path}/sshd/stranger";
    }

    public function stop(): void
    {
        $this->process->stop(1);
    }
}
