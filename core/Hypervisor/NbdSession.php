<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

use Closure;
use Generator;
use Kaiseki\Core\Machine\SparseDisk;
use Kaiseki\Core\Machine\UnreadableImage;

/**
 * One client of an NBD server that gives disks to be read, and nothing else: bytes come in, bytes go out (newstyle negotiation,
 * structured replies, base:allocation; the NBD protocol, https://github.com/NetworkBlockDevice/nbd/blob/master/doc/proto.md).
 * Whatever a client says is bounded: it costs no more memory than one answer.
 */
final class NbdSession
{
    /** Bytes of one request at most; told to who asks. */
    public const MOST = 2 << 20;

    /** Of an option that a client names. */
    private const LONGEST_OPTION = 8192;

    private const STRETCHES = 64;

    private const OPTIONS_OF_CONTEXTS = [NbdWords::OPT_SET_META_CONTEXT, NbdWords::OPT_LIST_META_CONTEXT];

    private const HELD = 'base:allocation';

    private const HELD_ID = 1;

    private const HOLE_OF_ZEROS = 3;

    private const EPERM = 1;

    private const EIO = 5;

    private const EINVAL = 22;

    private const EOVERFLOW = 75;

    private string $in = '';

    private string $out = '';

    /** @var Generator<int, int, string, void> wants so many bytes next */
    private Generator $talk;

    private bool $isStructured = false;

    private bool $tellsHeld = false;

    /** Whether the client is done with, once what is said is sent. */
    public bool $hasEnded = false;

    /**
     * @param  array<string, SparseDisk>  $disks  by the names they are served under
     * @param  Closure(string, int, int, ?string): void  $told  of each area that was read: disk, from, length, and why it could not be
     */
    public function __construct(private readonly array $disks, private readonly Closure $told)
    {
        $this->talk = $this->talk();
        $this->talk->current();
    }

    /** What is to be sent, as much of it as there is. */
    public function said(): string
    {
        return $this->out;
    }

    public function sent(int $bytes): void
    {
        $this->out = substr($this->out, $bytes);
    }

    public function heard(string $bytes): void
    {
        $this->in .= $bytes;
    }

    /** @return bool whether one thing more was understood and answered; if not, more must come */
    public function goOn(): bool
    {
        $wanted = $this->talk->valid() ? $this->talk->current() : PHP_INT_MAX;
        if ($this->hasEnded || strlen($this->in) < $wanted) {
            return false;
        }
        $bytes = substr($this->in, 0, $wanted);
        $this->in = substr($this->in, $wanted);
        $this->talk->send($bytes);
        $this->hasEnded = ! $this->talk->valid();

        return true;
    }

    /** @return Generator<int, int, string, void> */
    private function talk(): Generator
    {
        $this->out = 'NBDMAGICIHAVEOPT'.pack('n', 3);
        $flags = unpack('N', yield 4)[1] ?? 0;
        $disk = null;
        while ($disk === null) {
            ['magic' => $magic, 'option' => $option, 'length' => $length] = unpack('a8magic/Noption/Nlength', yield 16) ?: [];
            if ($magic !== 'IHAVEOPT' || $length > self::LONGEST_OPTION) {
                return;
            }
            $data = $length === 0 ? '' : yield $length;
            if ($option === NbdWords::OPT_ABORT) {
                $this->reply($option, NbdWords::REP_ACK);

                return;
            }
            if ($option === NbdWords::OPT_EXPORT_NAME) {
                $disk = isset($this->disks[$data]) ? $data : null;
                if ($disk === null) {
                    return; // there is no other answer to this option
                }
                $this->out .= $this->facts($disk).(($flags & 2) === 0 ? str_repeat("\0", 124) : '');
            } else {
                $disk = $this->option($option, $data);
            }
        }
        yield from $this->requests($disk);
    }

    /** @return Generator<int, int, string, void> */
    private function requests(string $disk): Generator
    {
        while (true) {
            $head = unpack('Nmagic/nflags/ncommand/Jcookie/Jfrom/Nlength', yield 28) ?: [];
            if ($head['magic'] !== NbdWords::REQUEST || in_array($head['command'], [NbdWords::WRITE, NbdWords::DISCONNECT], true)) {
                return; // what is to be written would come behind
            }
            $this->answer($disk, $head['command'], $head['cookie'], $head['from'], $head['length'], ($head['flags'] & 8) !== 0);
        }
    }

    /** @return string|null the disk that is read from now on */
    private function option(int $option, string $data): ?string
    {
        $name = strlen($data) >= 4 ? substr($data, 4, unpack('N', $data)[1] ?? 0) : '';
        $isServed = isset($this->disks[$name]);
        $isGo = $option === NbdWords::OPT_GO;
        match (true) {
            $option === NbdWords::OPT_STRUCTURED_REPLY => $this->isStructured = true,
            $option === NbdWords::OPT_LIST => $this->list(),
            in_array($option, self::OPTIONS_OF_CONTEXTS, true) && $isServed => $this->contexts($option, substr($data, 4 + strlen($name))),
            ($isGo || $option === NbdWords::OPT_INFO) && isset($this->disks[$name]) => $this->facing($option, $name),
            $isGo || $option === NbdWords::OPT_INFO => $this->reply($option, NbdWords::ERR_UNKNOWN, 'there is no such disk'),
            default => $this->reply($option, NbdWords::ERR_UNSUPPORTED),
        };
        $isKnown = $isGo ? isset($this->disks[$name]) : in_array($option, NbdWords::OPTIONS, true);
        $isKnown && $this->reply($option, NbdWords::REP_ACK);

        return $isGo && isset($this->disks[$name]) ? $name : null;
    }

    private function list(): void
    {
        foreach (array_keys($this->disks) as $name) {
            $this->reply(NbdWords::OPT_LIST, NbdWords::REP_SERVER, pack('N', strlen((string) $name)).$name);
        }
    }

    private function contexts(int $option, string $queries): void
    {
        $isSet = $option === NbdWords::OPT_SET_META_CONTEXT;
        $isWanted = str_contains($queries, self::HELD) || (! $isSet && strlen($queries) <= 4);
        $this->tellsHeld = $isSet ? $isWanted && $this->isStructured : $this->tellsHeld;
        if ($isWanted && (! $isSet || $this->tellsHeld)) {
            $this->reply($option, NbdWords::REP_META_CONTEXT, pack('N', $isSet ? self::HELD_ID : 0).self::HELD);
        }
    }

    private function facing(int $option, string $name): void
    {
        $this->reply($option, NbdWords::REP_INFO, pack('n', NbdWords::INFO_EXPORT).$this->facts($name));
        $this->reply($option, NbdWords::REP_INFO, pack('nNNN', NbdWords::INFO_BLOCK_SIZE, 1, 1 << 16, self::MOST));
    }

    /** Size, and what it is: has flags, is read only, takes several clients. */
    private function facts(string $name): string
    {
        return pack('Jn', $this->disks[$name]->size(), 1 | 2 | 1 << 8);
    }

    private function reply(int $option, int $type, string $data = ''): void
    {
        $this->out .= pack('JNNN', NbdWords::OPTION_REPLY, $option, $type, strlen($data)).$data;
    }

    private function answer(string $disk, int $command, int $cookie, int $from, int $length, bool $one): void
    {
        $isWithin = $from >= 0 && $from + $length <= $this->disks[$disk]->size();
        match (true) {
            $command === NbdWords::READ && $length > self::MOST => $this->fail($cookie, self::EOVERFLOW, 'more than can be had at once'),
            $command === NbdWords::READ && $isWithin && $length > 0 => $this->read($disk, $cookie, $from, $length),
            $command === NbdWords::STATUS && $isWithin && $length > 0 && $this->tellsHeld => $this->status(
                $disk,
                $cookie,
                $from,
                $length,
                $one,
            ),
            in_array($command, [NbdWords::FLUSH, NbdWords::CACHE], true) => $this->done($cookie),
            in_array($command, [NbdWords::TRIM, NbdWords::WRITE_ZEROES], true) => $this->fail($cookie, self::EPERM, 'it is only read'),
            default => $this->fail($cookie, self::EINVAL, 'nothing that can be asked'),
        };
    }

    private function read(string $disk, int $cookie, int $from, int $length): void
    {
        try {
            $answer = $this->isStructured
                ? $this->stretches($disk, $cookie, $from, $length)
                : [pack('NNJ', NbdWords::SIMPLE_REPLY, 0, $cookie), $this->disks[$disk]->read($from, $length)];
        } catch (UnreadableImage $unreadable) {
            ($this->told)($disk, $from, $length, $unreadable->getMessage());
            $this->fail($cookie, self::EIO, $unreadable->getMessage());

            return;
        }
        ($this->told)($disk, $from, $length, null);
        foreach ($answer as $part) {
            $this->out .= $part;
        }
    }

    /**
     * Where there is nothing but zeros none are sent.
     *
     * @return list<string>
     *
     * @throws UnreadableImage
     */
    private function stretches(string $disk, int $cookie, int $from, int $length): array
    {
        $parts = [];
        for ($end = $from + $length; $from < $end; $from += $goesOn) {
            [$goesOn, $isZeros] = $this->disks[$disk]->stretch($from, $end - $from);
            $isLast = (int) ($from + $goesOn === $end);
            if ($isZeros) {
                $parts[] = pack('NnnJNJN', NbdWords::STRUCTURED_REPLY, $isLast, NbdWords::CHUNK_HOLE, $cookie, 12, $from, $goesOn);
            } else {
                $parts[] = pack('NnnJNJ', NbdWords::STRUCTURED_REPLY, $isLast, NbdWords::CHUNK_DATA, $cookie, $goesOn + 8, $from);
                $parts[] = $this->disks[$disk]->read($from, $goesOn);
            }
        }

        return $parts;
    }

    private function status(string $disk, int $cookie, int $from, int $length, bool $one): void
    {
        $told = '';
        try {
            for ($i = 0; $length > 0 && $i < ($one ? 1 : self::STRETCHES); $i++, $from += $goesOn, $length -= $goesOn) {
                [$goesOn, $isZeros] = $this->disks[$disk]->stretch($from, $length);
                $told .= pack('NN', $goesOn, $isZeros ? self::HOLE_OF_ZEROS : 0);
            }
        } catch (UnreadableImage $unreadable) {
            $this->fail($cookie, self::EIO, $unreadable->getMessage());

            return;
        }
        $this->out .= $this->chunk(NbdWords::CHUNK_STATUS, $cookie, pack('N', self::HELD_ID).$told);
    }

    /** All of an answer in one. */
    private function chunk(int $type, int $cookie, string $data): string
    {
        return pack('NnnJN', NbdWords::STRUCTURED_REPLY, 1, $type, $cookie, strlen($data)).$data;
    }

    private function done(int $cookie): void
    {
        $this->out .= $this->isStructured
            ? $this->chunk(0, $cookie, '')
            : pack('NNJ', NbdWords::SIMPLE_REPLY, 0, $cookie);
    }

    private function fail(int $cookie, int $error, string $why): void
    {
        $why = substr($why, 0, 1000);
        $this->out .= $this->isStructured
            ? $this->chunk(NbdWords::CHUNK_ERROR | 1, $cookie, pack('Nn', $error, strlen($why)).$why)
            : pack('NNJ', NbdWords::SIMPLE_REPLY, $error, $cookie);
    }
}
