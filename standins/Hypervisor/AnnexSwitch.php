<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\HypervisorFailure;
use Kaiseki\Core\Packets\CaptureWriter;
use Kaiseki\Core\Packets\Frame;
use RuntimeException;
use Socket;
use Symfony\Component\Filesystem\Filesystem;

/**
 * The switch of an annex. What a card sends to another card there is passed on, what answers the desk goes to the door, and all the rest is
 * written down and goes nowhere. A card that asks twice for an address that nobody has is told that this is it: so that what it would have
 * sent there is seen, and not only that it asked.
 */
final class AnnexSwitch
{
    private const LONGEST_FRAME = 65_536;

    /** Frames that are taken before anything else is looked at. */
    private const AT_ONCE = 64;

    /** The address under which it takes what goes out: locally administered (IEEE 802). */
    private const NOWHERE = "\x02annex";

    /** Those of the door's network (docs of QEMU, "user mode network stack"): itself, and its server of names, which answers nobody. */
    private const DOOR = '10.0.2.2';

    private const OF_DOOR = [self::DOOR, '10.0.2.3', '0.0.0.0'];

    private const DOOR_CARD = "\x52\x55\x0a\0\2\2";

    /** The last byte of the first address that the door gives away, and how many are tried at once. */
    private const FIRST = 15;

    private const PROBES = 8;

    /** What is served to the desk. */
    private const SERVED = 80;

    /** Seconds after which a second question is one. */
    private const ASKS_AGAIN = 0.5;

    /** Addresses that are kept in mind, of all cards. */
    private const MOST_ADDRESSES = 4096;

    /** Seconds between two looks around. */
    private const LOOKS = 0.2;

    private readonly Socket $socket;

    private readonly CaptureWriter $record;

    /** @var array<string, AnnexCard> socket => card */
    private array $cards = [];

    private int $readFrom = 0;

    /** @var array<string, string> address => socket of the card that has it */
    private array $addresses = [];

    /** @var array<string, int> socket => its port, where that leads to it */
    private array $led = [];

    private float $looked = 0.0;

    private int $probed = 0;

    /** @var array<string, float> socket and address => when it was asked for */
    private array $asked = [];

    /** Packets for which there was no room, and what of that is kept. */
    private int $beyond;

    private int $beyondKept;

    public function __construct(private readonly KeptAnnex $annex)
    {
        $record = fopen($annex->recordFile(), 'c+b');
        $record !== false || throw new RuntimeException('The record cannot be written.');
        $this->record = new CaptureWriter($record, $annex->mostRecorded());
        $this->beyond = $this->beyondKept = (int) @file_get_contents($annex->beyondFile());
        $socket = socket_create(AF_UNIX, SOCK_DGRAM, 0);
        ($socket !== false && socket_bind($socket, $annex->socket())) || throw new RuntimeException('The socket cannot be made.');
        socket_set_nonblock($socket);
        $this->socket = $socket;
    }

    public function run(): never
    {
        while (true) {
            $ready = [$this->socket];
            $none = null;
            if (@socket_select($ready, $none, $none, 0, (int) (1e6 * self::LOOKS)) > 0) {
                for ($i = 0; $i < self::AT_ONCE && @socket_recvfrom(
                    $this->socket,
                    $frame,
                    self::LONGEST_FRAME,
                    0,
                    $from,
                ) !== false; $i++) {
                    $this->take((string) $from, (string) $frame);
                }
            }
            $this->lookAround();
        }
    }

    private function lookAround(): void
    {
        if (microtime(true) - $this->looked < self::LOOKS) {
            return;
        }
        $this->looked = microtime(true);
        $this->probe();
        $this->lead();
        if ($this->beyond !== $this->beyondKept) {
            (new Filesystem)->dumpFile($this->annex->beyondFile(), (string) $this->beyond);
            $this->beyondKept = $this->beyond;
        }
    }

    private function take(string $from, string $bytes): void
    {
        $frame = Frame::of($bytes);
        if ($from === $this->annex->doorSocket()) {
            $frame === null || $this->fromDoor($frame, $bytes);

            return;
        }
        $card = $this->card($from);
        match (true) {
            $card === null => null, // nobody that was let in
            $frame === null || $frame->source !== $card->mac => $this->write($card, $bytes),
            default => $this->fromCard($card, $frame, $bytes),
        };
    }

    private function fromDoor(Frame $frame, string $bytes): void
    {
        foreach ($this->cards as $card) {
            if ($frame->isToMany() || $frame->destination === $card->mac) {
                $this->send($card->socket, $bytes);
            }
        }
    }

    private function fromCard(AnnexCard $card, Frame $frame, string $bytes): void
    {
        $this->learn($card, $frame);
        if ($frame->isToMany()) {
            foreach ($this->cards as $other) {
                $other === $card || $this->send($other->socket, $bytes);
            }
            $this->isForDoor($card, $frame) && $this->send($this->annex->doorSocket(), $bytes);
            $frame->asks && $this->sought($card, $frame, $bytes);

            return;
        }
        $neighbour = $this->neighbour($frame);
        match (true) {
            $neighbour !== null => $this->send($neighbour->socket, $neighbour->mac.substr($bytes, 6)),
            $this->isForDoor($card, $frame) => $this->send($this->annex->doorSocket(), $bytes),
            default => $this->write($card, $bytes),
        };
    }

    private function learn(AnnexCard $card, Frame $frame): void
    {
        $address = $frame->from;
        if ($address !== null && ! str_contains($address, ':') && ! in_array($address, self::OF_DOOR, true)) {
            $holder = $this->addresses[$address] ?? null;
            if (($holder === null || ! isset($this->cards[$holder])) && count($this->addresses) < self::MOST_ADDRESSES) {
                $this->addresses[$address] = $card->socket;
            }
        }
    }

    /** Who a frame is for: by its address, or by that of what it carries, if it was sent to what stands for everything outside. */
    private function neighbour(Frame $frame): ?AnnexCard
    {
        foreach ($this->cards as $card) {
            if ($card->mac === $frame->destination) {
                return $card;
            }
        }
        $holder = $frame->destination === self::NOWHERE ? $this->addresses[$frame->to ?? ''] ?? null : null;

        return $holder === null ? null : $this->cards[$holder] ?? null;
    }

    private static function asksForAddress(Frame $frame): bool
    {
        return $frame->protocol === 'UDP' && $frame->fromPort === 68 && $frame->port === 67; // DHCP, RFC 2131
    }

    /** What leads the desk to a card, and what answers it: from an address that this card has, so that none is led to another. */
    private function isForDoor(AnnexCard $card, Frame $frame): bool
    {
        $isItsOwn = ($this->addresses[$frame->from ?? ''] ?? null) === $card->socket;

        return match ($frame->protocol) {
            'ARP' => $isItsOwn,
            'UDP' => self::asksForAddress($frame),
            'TCP' => $isItsOwn && $frame->to === self::DOOR && $frame->fromPort === self::SERVED && $frame->isReplyOfTcp(),
            default => false,
        };
    }

    private function sought(AnnexCard $card, Frame $frame, string $bytes): void
    {
        $address = (string) $frame->to;
        if ($frame->from === '0.0.0.0' || $frame->from === $address || in_array($address, self::OF_DOOR, true)) {
            return; // whether somebody has its own address, which nobody has to
        }
        $holder = $this->addresses[$address] ?? null;
        if ($holder !== null && isset($this->cards[$holder])) {
            return;
        }
        $now = microtime(true);
        $this->asked = count($this->asked) < self::MOST_ADDRESSES ? $this->asked : [];
        $before = $this->asked["{$card->socket} $address"] ?? null;
        if ($before === null) {
            $this->asked["{$card->socket} $address"] = $now;
            $this->write($card, $bytes);
        } elseif ($now - $before >= self::ASKS_AGAIN) {
            $answer = "\x08\x06\0\1\x08\0\6\4\0\2".self::NOWHERE.inet_pton($address).substr($bytes, 22, 10);
            $this->send($card->socket, $card->mac.self::NOWHERE.$answer);
        }
    }

    private function write(AnnexCard $card, string $bytes): void
    {
        $this->record->add($card->machine, $bytes, microtime(true)) || $this->beyond++;
    }

    /** What is not taken at once is lost, as it is at any switch. */
    private function send(string $to, string $bytes): void
    {
        @socket_sendto($this->socket, $bytes, strlen($bytes), 0, $to);
    }

    private function card(string $socket): ?AnnexCard
    {
        clearstatcache(true, $this->annex->cardsFile());
        $file = (int) @fileinode($this->annex->cardsFile());
        if ($file !== $this->readFrom) {
            $this->readFrom = $file;
            $this->know(array_column($this->annex->cards(), null, 'socket'));
        }

        return $this->cards[$socket] ?? null;
    }

    /** @param  array<string, AnnexCard>  $cards  as they are from now on; what was learned of one that was joined anew holds no longer */
    private function know(array $cards): void
    {
        foreach ($this->cards as $socket => $before) {
            if ($before != ($cards[$socket] ?? null)) {
                $this->addresses = array_filter($this->addresses, fn (string $holder): bool => $holder !== $socket);
                isset($this->led[$socket]) && $this->door("hostfwd_remove desk tcp:127.0.0.1:{$this->led[$socket]}");
                unset($this->led[$socket]);
            }
        }
        $this->cards = $cards;
    }

    /** Asks cards of which no address is known whether theirs is of the door's network: a machine that asks for nothing says nothing. */
    private function probe(): void
    {
        $this->card('');
        $known = array_flip($this->addresses);
        foreach ($this->cards as $socket => $card) {
            for ($i = 0; $i < self::PROBES && $card->port !== null && ! isset($known[$socket]); $i++) {
                $last = $i === 0 ? self::FIRST : self::FIRST + ($this->probed + $i) % (255 - self::FIRST);
                $address = pack('C4', 10, 0, 2, $last);
                $asks = "\x08\x06\0\1\x08\0\6\4\0\1".self::DOOR_CARD.inet_pton(self::DOOR)."\0\0\0\0\0\0$address";
                $this->send($card->socket, $card->mac.self::DOOR_CARD.$asks);
            }
        }
        $this->probed += self::PROBES - 1;
    }

    /** Leads the port of each card to the address that it has. */
    private function lead(): void
    {
        foreach ($this->addresses as $address => $socket) {
            $port = $this->cards[$socket]->port ?? null;
            if ($port !== null && ! isset($this->led[$socket])) {
                $isLed = $this->door("hostfwd_add desk tcp:127.0.0.1:$port-$address:".self::SERVED);
                $isLed && $this->led[$socket] = $port;
            }
        }
    }

    /** @return bool whether it could be asked: else again later */
    private function door(string $command): bool
    {
        try {
            $this->annex->door()->call('human-monitor-command', ['command-line' => $command]);
        } catch (HypervisorFailure) {
            return false;
        }

        return true;
    }
}
