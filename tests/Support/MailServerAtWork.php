<?php

declare(strict_types=1);

namespace Tests\Support;

use Kaiseki\Core\Mail\Imap\ImapAddress;
use Kaiseki\Core\Mail\Imap\ImapMailbox;
use Kaiseki\StandIns\MailServer;
use RuntimeException;
use Symfony\Component\Process\Process;

/** The stand-in mail server as a process of its own. */
final class MailServerAtWork
{
    public readonly MailServer $server;

    private Process $process;

    /** @param  array<string, int|null>  $mailboxes  name => megabytes that it may hold */
    public function __construct(array $mailboxes)
    {
        $free = stream_socket_server('tcp://127.0.0.1:0');
        $port = (int) substr((string) strrchr((string) stream_socket_get_name($free, false), ':'), 1);
        fclose($free);
        // Names of sockets are short, and who runs it must be able to come in.
        $folder = '/tmp/kaiseki-mail-'.bin2hex(random_bytes(4));
        $this->server = MailServer::in($folder, $port);
        foreach ($mailboxes as $name => $quota) {
            $this->server->mailbox($name, "secret-of-$name", $quota);
        }
        $this->begin();
    }

    public function begin(): void
    {
        $this->process = new Process($this->server->command());
        $this->process->setTimeout(null);
        $this->process->start();
        while (! $this->answers()) {
            $this->process->isRunning() || throw new RuntimeException((string) file_get_contents("{$this->server->folder}/dovecot.log"));
            usleep(20_000);
        }
    }

    /** Ends it at once, whatever it is at: also one that another process of the test began. */
    public function kill(): void
    {
        $found = new Process(['pgrep', '-f', "{$this->server->folder}/dovecot.conf"]);
        $found->run();
        foreach (array_filter(explode("\n", $found->getOutput())) as $master) {
            posix_kill((int) $master, SIGSTOP); // else it begins others in their place, which keep its port
            (new Process(['pkill', '-KILL', '-P', $master]))->run();
            posix_kill((int) $master, SIGKILL);
        }
        @unlink("{$this->server->folder}/run/master.pid"); // that one is no more, also where nobody has asked for how it ended
    }

    public function end(): void
    {
        $this->process->stop(10);
        $this->kill();
    }

    public function remove(): void
    {
        $this->end();
        (new Process(['rm', '-rf', $this->server->folder]))->run();
    }

    public function address(): ImapAddress
    {
        return ImapAddress::parse("imap://127.0.0.1:{$this->server->port}");
    }

    public function open(string $mailbox): ImapMailbox
    {
        return ImapMailbox::open($this->address(), MailServer::MASTER, $this->server->masterPassword(), $mailbox);
    }

    /** Where a mailbox lies. */
    public function maildir(string $mailbox): string
    {
        return "{$this->server->folder}/files/$mailbox/Maildir";
    }

    /** @return list<string> what doveadm(1), the server's own tool, says */
    public function doveadm(string ...$arguments): array
    {
        $process = new Process(['doveadm', '-c', "{$this->server->folder}/dovecot.conf", ...$arguments]);

        return array_values(array_filter(explode("\n", $process->mustRun()->getOutput())));
    }

    private function answers(): bool
    {
        $line = @stream_socket_client("tcp://127.0.0.1:{$this->server->port}", $number, $because, 1);
        if ($line === false) {
            return false;
        }
        stream_set_timeout($line, 2);
        $greeting = fgets($line);
        fclose($line);

        return is_string($greeting) && str_starts_with($greeting, '* OK');
    }
}
