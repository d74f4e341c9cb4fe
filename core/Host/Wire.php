<?php

declare(strict_types=1);

namespace Kaiseki\Core\Host;

use Socket;

/**
 * Messages between the desk and the process of a host over a socket of this machine: each a list of byte strings, and some
 * with an open file beside it. Bounded, so that neither side can be made to hold more than that.
 */
final class Wire
{
    /** Bytes of one message. */
    public const LARGEST = 16 << 20;

    public function __construct(private readonly Socket $socket)
    {
    }

    /**
     * @param  int  $patience  seconds after which an answer is not waited for any more; 0 for none
     *
     * @throws HostIsSilent if nobody listens there
     */
    public static function to(string $path, int $patience = 0): self
    {
        $socket = socket_create(AF_UNIX, SOCK_STREAM, 0);
        if ($socket === false || ! @socket_connect($socket, $path)) {
            throw HostIsSilent::at($path, $socket === false ? 0 : socket_last_error($socket));
        }

        $patience === 0 || socket_set_option($socket, SOL_SOCKET, SO_RCVTIMEO, ['sec' => $patience, 'usec' => 0]);

        return new self($socket);
    }

    /** @param  list<string>  $parts */
    public function send(array $parts): void
    {
        $message = self::encode($parts);
        for ($done = 0, $length = strlen($message); $done < $length; $done += $written) {
            $written = @socket_write($this->socket, $done === 0 ? $message : substr($message, $done));
            if ($written === false) {
                throw HostIsSilent::ended();
            }
        }
    }

    /**
     * @param  list<string>  $parts  little
     * @param  resource  $stream  an open file that goes with it
     */
    public function sendWith(array $parts, $stream): void
    {
        $sent = @socket_sendmsg(
            $this->socket,
            ['iov' => [self::encode($parts)], 'control' => [['level' => SOL_SOCKET, 'type' => SCM_RIGHTS, 'data' => [$stream]]]],
            0,
        );
        $sent !== false || throw HostIsSilent::ended();
    }

    /** @return list<string> */
    public function receive(): array
    {
        return $this->rest($this->bytes(4));
    }

    /** @return array{list<string>, resource|null} a message, and the open file that came with it */
    public function receiveWith(): array
    {
        [$head, $control] = $this->head(SCM_RIGHTS, 1);
        $stream = $control[0] ?? null;

        return [$this->rest($head), is_resource($stream) ? $stream : null];
    }

    /**
     * Of a socket that was listened at with SO_PASSCRED (unix(7)).
     *
     * @return array{list<string>, int} a message, and the account of who sent it, as the kernel says
     */
    public function receiveFromWhom(): array
    {
        [$head, $control] = $this->head(SCM_CREDENTIALS);
        socket_set_option($this->socket, SOL_SOCKET, SO_PASSCRED, 0);

        return [$this->rest($head), is_int($control['uid'] ?? null) ? $control['uid'] : throw HostIsSilent::ended()];
    }

    /** @return array{string, array<mixed>} the four bytes of a message's length, and what came beside them */
    private function head(int $type, int $count = 0): array
    {
        $message = ['name' => [], 'buffer_size' => 4, 'controllen' => socket_cmsg_space(SOL_SOCKET, $type, $count)];
        if (! @socket_recvmsg($this->socket, $message, MSG_CMSG_CLOEXEC)) {
            throw HostIsSilent::ended();
        }
        $head = implode('', $message['iov']);

        return [$head.$this->bytes(4 - strlen($head)), $message['control'][0]['data'] ?? []];
    }

    /** @return list<string> */
    private function rest(string $head): array
    {
        $length = unpack('N', $head)[1] ?? 0;
        if ($length < 4 || $length > self::LARGEST) {
            throw HostIsSilent::nonsense();
        }

        return self::decode($this->bytes($length));
    }

    private function bytes(int $count): string
    {
        for ($all = ''; strlen($all) < $count; $all .= $bytes) {
            $bytes = '';
            $got = @socket_recv($this->socket, $bytes, $count - strlen($all), MSG_WAITALL);
            if ($got === 0 || ($got === false && socket_last_error($this->socket) !== SOCKET_EINTR)) {
                throw HostIsSilent::ended();
            }
            $bytes = (string) $bytes;
        }

        return $all;
    }

    /**
     * Length of what follows, number of strings, their lengths (each 32 bits, the highest first), and they themselves.
     *
     * @param  list<string>  $parts
     */
    public static function encode(array $parts): string
    {
        $message = pack('N*', count($parts), ...array_map(strlen(...), $parts)).implode('', $parts);
        if (strlen($message) > self::LARGEST) {
            throw HostIsSilent::nonsense();
        }

        return pack('N', strlen($message)).$message;
    }

    /** @return list<string> */
    public static function decode(string $message): array
    {
        $count = unpack('N', $message)[1] ?? 0;
        $at = 4 + 4 * $count;
        if ($at > strlen($message)) {
            throw HostIsSilent::nonsense();
        }
        $parts = [];
        foreach ($count === 0 ? [] : (unpack("N$count", $message, 4) ?: []) as $length) {
            $parts[] = substr($message, $at, $length);
            $at += $length;
        }

        return $at === strlen($message) ? $parts : throw HostIsSilent::nonsense();
    }
}
