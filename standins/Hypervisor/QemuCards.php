<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

use Kaiseki\Core\Hypervisor\CardSettings;
use Kaiseki\Core\Hypervisor\HypervisorFailure;

/**
 * What the network cards of one machine are joined to. A machine reaches nothing of this one, but for a line where its network leads there;
 * from here, one port of it is reached.
 */
final readonly class QemuCards
{
    /** Where machines reach a line: within the network of docs of QEMU, "user mode network stack". */
    public const LINE = '10.0.2.100:443';

    /** A free port of this machine, which leads to its first connected card; null if none is. */
    public ?int $port;

    /**
     * @param  string  $base  with which the names of its sockets begin
     * @param  list<CardSettings>  $cards
     * @param  array<string, KeptAnnex>  $annexes  network => annex, of the cards that are in one
     * @param  array<string, string>  $lines  network => HOST:PORT of this machine to which it leads
     */
    public function __construct(
        private string $base,
        private string $machine,
        private array $cards,
        private array $annexes,
        private array $lines = [],
    ) {
        $connected = array_filter($cards, fn (CardSettings $card): bool => $card->isConnected);
        $this->port = $connected === [] ? null : self::freePort();
    }

    /** @return list<string> for QEMU */
    public function arguments(): array
    {
        $arguments = [];
        $port = $this->port;
        foreach ($this->cards as $i => $card) {
            $annex = $this->annexes[$card->network] ?? null;
            $leads = $card->isConnected ? $port : null;
            $port = $card->isConnected ? null : $port;
            $joined = $annex === null ? self::alone($i, $leads, $this->lines[$card->network] ?? null) : $this->joined($annex, $i, $leads);
            array_push($arguments, '-netdev', $joined);
            array_push($arguments, '-device', "virtio-net-pci,netdev=net$i,mac={$card->mac},romfile=,id=card$i");
        }

        return $arguments;
    }

    private static function alone(int $i, ?int $port, ?string $line): string
    {
        return "user,id=net$i,restrict=on".($port === null ? '' : ",hostfwd=tcp:127.0.0.1:$port-:80").
            ($line === null ? '' : ',guestfwd=tcp:'.self::LINE."-cmd:/usr/bin/socat - TCP:$line");
    }

    private function joined(KeptAnnex $annex, int $i, ?int $port): string
    {
        $socket = "{$this->base}.net$i";
        $annex->begin();
        $mac = (string) hex2bin(str_replace(':', '', $this->cards[$i]->mac));
        $annex->admit(new AnnexCard($socket, $this->machine, $mac, $port));

        return "dgram,id=net$i,local.type=unix,local.path=$socket,remote.type=unix,remote.path={$annex->socket()}";
    }

    private static function freePort(): int
    {
        $server = stream_socket_server('tcp://127.0.0.1:0');
        $name = $server === false ? false : stream_socket_get_name($server, false);

        return (int) substr((string) strrchr((string) $name, ':'), 1) ?: throw HypervisorFailure::because('no port is free');
    }
}
