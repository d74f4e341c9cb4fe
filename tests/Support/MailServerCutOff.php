<?php

declare(strict_types=1);

namespace Tests\Support;

/**
 * A line to a mail server that hands all on, and kills the server once: when it has just been given a message. Then it begins the server
 * anew, and hands on again. So the cut always falls in the middle, however fast either side is.
 */
final class MailServerCutOff
{
    public readonly int $port;

    private readonly int $child;

    /** @param  int  $messages  the server is killed with this one */
    public function __construct(private readonly MailServerAtWork $server, private readonly int $messages)
    {
        $door = stream_socket_server('tcp://127.0.0.1:0');
        $this->port = (int) substr((string) strrchr((string) stream_socket_get_name($door, false), ':'), 1);
        $this->child = pcntl_fork();
        if ($this->child === 0) {
            $this->serve($door);
        }
        fclose($door);
    }

    /** Ends it, and with it the server that it began. */
    public function end(): void
    {
        posix_kill($this->child, SIGKILL);
        pcntl_waitpid($this->child, $status);
    }

    /** @param  resource  $door */
    private function serve($door): never
    {
        $pairs = []; // id of a line => the line on the other side
        $lines = [];
        $given = 0;
        while (true) {
            $ready = [$door, ...array_values($lines)];
            $none = null;
            stream_select($ready, $none, $none, null);
            foreach ($ready as $line) {
                if ($line === $door) {
                    $client = stream_socket_accept($door);
                    $server = stream_socket_client("tcp://127.0.0.1:{$this->server->server->port}");
                    [$lines[(int) $client], $lines[(int) $server]] = [$client, $server];
                    [$pairs[(int) $client], $pairs[(int) $server]] = [$server, $client];

                    continue;
                }
                $bytes = isset($pairs[(int) $line]) ? (string) fread($line, 1 << 16) : '';
                if ($bytes !== '') {
                    fwrite($pairs[(int) $line], $bytes);
                    $before = $given;
                    $given += substr_count($bytes, ' APPEND ');
                    if ($before < $this->messages && $given >= $this->messages) {
                        $this->server->kill();
                        $this->server->begin();
                    }
                } elseif (isset($pairs[(int) $line])) {
                    $other = $pairs[(int) $line];
                    unset($pairs[(int) $line], $pairs[(int) $other], $lines[(int) $line], $lines[(int) $other]);
                    stream_socket_shutdown($other, STREAM_SHUT_RDWR); // the server that was begun has inherited it
                    fclose($line);
                    fclose($other);
                }
            }
        }
    }
}
