<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

use Socket;

/**
 * One export of an NBD server at a socket of this machine, as a client: newstyle negotiation, structured replies, metadata contexts
 * (the NBD protocol, https://github.com/NetworkBlockDevice/nbd/blob/master/doc/proto.md). Whatever the server says is bounded.
 */
final class NbdLink
{
    /** Bytes of one request at most: what every server takes. */
    public const MOST = 32 << 20;

    private const READ_ONLY = 2;

    private const DONE = 1;

    /** Seconds in which a server must say something. */
    private const PATIENCE = 600;

    public readonly int $size;

    public readonly bool $isReadOnly;

    /** @var array<string, int> name of a metadata context => its number */
    public readonly array $contexts;

    private int $cookie = 0;

    /** @var array{int, int}|null an area that was asked for, and is not read yet */
    private ?array $ahead = null;

    /** @param  list<string>  $contexts */
    private function __construct(private readonly Socket $socket, string $export, array $contexts)
    {
        $this->greet();
        $this->contexts = $this->agree($export, $contexts);
        [$this->size, $this->isReadOnly] = $this->begin($export);
    }

    /**
     * @param  list<string>  $contexts  metadata contexts that are wanted
     *
     * @throws HypervisorFailure
     */
    public static function open(string $path, string $export, array $contexts): self
    {
        $socket = socket_create(AF_UNIX, SOCK_STREAM, 0);
        if ($socket === false || ! @socket_connect($socket, $path)) {
            $why = socket_strerror($socket === false ? 0 : socket_last_error($socket));
            throw HypervisorFailure::because("nobody serves the disk at $path: $why");
        }
        foreach ([SO_RCVTIMEO, SO_SNDTIMEO] as $timeout) {
            socket_set_option($socket, SOL_SOCKET, $timeout, ['sec' => self::PATIENCE, 'usec' => 0]);
        }

        return new self($socket, $export, $contexts);
    }

    private function greet(): void
    {
        if ($this->bytes(16) !== 'NBDMAGICIHAVEOPT') {
            throw HypervisorFailure::nonsense('no greeting of NBD');
        }
        $this->bytes(2);
        $this->send(pack('N', 3)); // newstyle, and no zeros behind
        $this->option(NbdWords::OPT_STRUCTURED_REPLY, '');
        if ($this->reply()[0] !== NbdWords::REP_ACK) {
            throw HypervisorFailure::nonsense('the NBD server has no structured replies');
        }
    }

    /**
     * @param  list<string>  $wanted
     * @return array<string, int>
     */
    private function agree(string $export, array $wanted): array
    {
        if ($wanted === []) {
            return [];
        }
        $queries = implode('', array_map(fn (string $name): string => pack('N', strlen($name)).$name, $wanted));
        $this->option(NbdWords::OPT_SET_META_CONTEXT, pack('N', strlen($export)).$export.pack('N', count($wanted)).$queries);
        $agreed = [];
        for ([$type, $data] = $this->reply(); $type === NbdWords::REP_META_CONTEXT; [$type, $data] = $this->reply()) {
            $agreed[substr($data, 4)] = self::number($data, 0);
        }
        $missing = array_diff($wanted, array_keys($agreed));

        return $type === NbdWords::REP_ACK && $missing === []
            ? $agreed
            : throw HypervisorFailure::because('the disk is served without '.implode(', ', $missing ?: ['what was asked for']));
    }

    /** @return array{int, bool} bytes, and whether it is only read */
    private function begin(string $export): array
    {
        $this->option(NbdWords::OPT_GO, pack('N', strlen($export)).$export.pack('n', 0));
        $told = null;
        for ([$type, $data] = $this->reply(); $type === NbdWords::REP_INFO; [$type, $data] = $this->reply()) {
            if (str_starts_with($data, "\0\0") && strlen($data) === 12) {
                $told = [unpack('J', $data, 2)[1] ?? 0, ((unpack('n', $data, 10)[1] ?? 0) & self::READ_ONLY) !== 0];
            }
        }
        if ($type !== NbdWords::REP_ACK || $told === null || $told[0] < 0) {
            throw HypervisorFailure::because('the NBD server refuses the disk: '.mb_scrub(mb_strcut($data, 0, 300)));
        }

        return $told;
    }

    /** Has the server begin with an area that will be read next, while what was read is looked at. */
    public function ahead(int $from, int $length): void
    {
        $this->ask(NbdWords::READ, $from, $length);
        $this->ahead = [$from, $length];
    }

    /** Bytes of an area; holes of it come as zeros. */
    public function read(int $from, int $length): string
    {
        $this->ahead === [$from, $length] || $this->ask(NbdWords::READ, $from, $length);
        $this->ahead = null;

        return $this->area($from, $length);
    }

    private function area(int $from, int $length): string
    {
        $all = null;
        foreach ($this->chunks() as [$type, $data]) {
            if ($type !== NbdWords::CHUNK_DATA) {
                continue; // a hole, or nothing
            }
            if (strlen($data) === $length + 8 && unpack('J', $data)[1] === $from) {
                $all = substr($data, 8);
            } else {
                $all = substr_replace($all ?? str_repeat("\0", $length), substr($data, 8), self::long($data) - $from, strlen($data) - 8);
            }
        }
        $all ??= str_repeat("\0", $length);

        return strlen($all) === $length ? $all : throw HypervisorFailure::nonsense('more of a disk than was asked for');
    }

    public function write(int $from, string $bytes): void
    {
        $this->ask(NbdWords::WRITE, $from, strlen($bytes), $bytes);
        $this->finish();
    }

    public function zero(int $from, int $length): void
    {
        $this->ask(NbdWords::WRITE_ZEROES, $from, $length);
        $this->finish();
    }

    /** What was written is on its medium afterwards. */
    public function flush(): void
    {
        $this->ask(NbdWords::FLUSH, 0, 0);
        $this->finish();
    }

    /**
     * What a metadata context says of an area, from its beginning; it may say less than all of it.
     *
     * @return list<array{int, int}> length, and its flags
     */
    public function status(string $context, int $from, int $length): array
    {
        $told = [];
        $this->ask(NbdWords::STATUS, $from, $length);
        foreach ($this->chunks() as [$type, $data]) {
            if ($type === NbdWords::CHUNK_STATUS && self::number($data, 0) === $this->contexts[$context]) {
                foreach (str_split(substr($data, 4), 8) as $extent) {
                    $told[] = [self::number($extent, 0), self::number($extent, 4)];
                }
            }
        }

        return $told;
    }

    public function close(): void
    {
        try {
            $this->ask(NbdWords::DISCONNECT, 0, 0);
        } catch (HypervisorFailure) {
            // it has gone before
        }
        socket_close($this->socket);
    }

    private function finish(): void
    {
        foreach ($this->chunks() as $chunk) {
            // an answer without anything in it
        }
    }

    private function ask(int $command, int $from, int $length, string $bytes = ''): void
    {
        if ($this->ahead !== null) {
            [[$asked, $for], $this->ahead] = [$this->ahead, null];
            $this->area($asked, $for); // nobody wants it any more
        }
        $this->send(pack('NnnJJN', NbdWords::REQUEST, 0, $command, ++$this->cookie, $from, $length).$bytes);
    }

    /** @return iterable<array{int, string}> type and content of each part of an answer, to its end */
    private function chunks(): iterable
    {
        do {
            $magic = self::number($this->bytes(4), 0);
            $isDone = true;
            if ($magic === NbdWords::SIMPLE_REPLY) {
                $error = self::number($this->bytes(12), 0);
                $error === 0 || throw self::refused($error, '');
            } elseif ($magic === NbdWords::STRUCTURED_REPLY) {
                $head = $this->bytes(16);
                $isDone = ((unpack('n', $head)[1] ?? 0) & self::DONE) !== 0;
                $type = unpack('n', $head, 2)[1] ?? 0;
                $data = $this->bytes(self::bounded(self::number($head, 12)));
                ($type & NbdWords::CHUNK_ERROR) === 0 || throw self::refused(self::number($data, 0), substr($data, 6));
                yield [$type, $data];
            } else {
                throw HypervisorFailure::nonsense('no answer of NBD');
            }
        } while (! $isDone);
    }

    private static function refused(int $error, string $words): HypervisorFailure
    {
        $what = $words === '' ? socket_strerror($error) : mb_scrub(mb_strcut($words, 0, 300));

        return HypervisorFailure::because("the disk cannot be read or written any further: $what");
    }

    private function option(int $option, string $data): void
    {
        $this->send('IHAVEOPT'.pack('NN', $option, strlen($data)).$data);
    }

    /** @return array{int, string} */
    private function reply(): array
    {
        $head = $this->bytes(20);
        $type = self::number($head, 12);
        $data = $this->bytes(self::bounded(self::number($head, 16)));

        return [($type & NbdWords::REP_ERROR) !== 0 ? NbdWords::REP_ERROR : $type, $data];
    }

    private static function bounded(int $length): int
    {
        return $length <= self::MOST + 8 ? $length : throw HypervisorFailure::nonsense("a message of $length bytes");
    }

    private static function number(string $bytes, int $at): int
    {
        return strlen($bytes) >= $at + 4 ? unpack('N', $bytes, $at)[1] ?? 0 : throw HypervisorFailure::nonsense('half a message');
    }

    private static function long(string $bytes): int
    {
        return strlen($bytes) >= 8 ? unpack('J', $bytes)[1] ?? 0 : throw HypervisorFailure::nonsense('half a message');
    }

    private function send(string $bytes): void
    {
        for ($done = 0, $length = strlen($bytes); $done < $length; $done += $written) {
            $written = @socket_write($this->socket, $done === 0 ? $bytes : substr($bytes, $done));
            $written !== false || throw HypervisorFailure::because('the connection to the disk has ended');
        }
    }

    private function bytes(int $count): string
    {
        for ($all = ''; strlen($all) < $count; $all .= $bytes) {
            $bytes = '';
            $got = @socket_recv($this->socket, $bytes, $count - strlen($all), MSG_WAITALL);
            if ($got === 0 || ($got === false && socket_last_error($this->socket) !== SOCKET_EINTR)) {
                throw HypervisorFailure::because('the connection to the disk has ended');
            }
            $bytes = (string) $bytes;
        }

        return $all;
    }
}
