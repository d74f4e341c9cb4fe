<?php

declare(strict_types=1);

namespace Tests\Support;

use Kaiseki\StandIns\Hypervisor\AnnexCard;
use Kaiseki\StandIns\Hypervisor\KeptAnnex;
use Socket;

/** A card in an annex that says what a test lets it say. */
final readonly class CardAtWork
{
    private Socket $socket;

    private string $path;

    public function __construct(
        private KeptAnnex $annex,
        string $name,
        public string $mac,
        ?int $port = null,
        bool $isAdmitted = true,
    ) {
        $this->path = dirname($annex->socket())."/$name.net0";
        $socket = socket_create(AF_UNIX, SOCK_DGRAM, 0);
        assert($socket !== false);
        socket_bind($socket, $this->path);
        $this->socket = $socket;
        $isAdmitted && $annex->admit(new AnnexCard($this->path, $name, Frames::mac($mac), $port));
    }

    public function send(string $frame): void
    {
        socket_sendto($this->socket, $frame, strlen($frame), 0, $this->annex->socket());
    }

    /** @return string|null the next frame that comes; null if none does for some time */
    public function receive(int $milliseconds = 5000): ?string
    {
        $most = ['sec' => intdiv($milliseconds, 1000), 'usec' => $milliseconds % 1000 * 1000];
        socket_set_option($this->socket, SOL_SOCKET, SO_RCVTIMEO, $most);

        return @socket_recvfrom($this->socket, $frame, 65_536, 0, $from) === false ? null : $frame;
    }

    /** @return bool whether this very frame comes, whatever else does */
    public function hears(string $frame): bool
    {
        while (($came = $this->receive()) !== null) {
            if ($came === $frame) {
                return true;
            }
        }

        return false;
    }
}
