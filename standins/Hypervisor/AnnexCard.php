<?php

declare(strict_types=1);

namespace Kaiseki\StandIns\Hypervisor;

/** A card of a machine in an annex: the only one that sends from its socket, and under its address. */
final readonly class AnnexCard
{
    /**
     * @param  string  $socket  path of its datagram socket
     * @param  string  $machine  as the record names it
     * @param  string  $mac  6 bytes
     * @param  int|null  $port  of this machine, from which the desk is led to its port 80
     */
    public function __construct(public string $socket, public string $machine, public string $mac, public ?int $port)
    {
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['socket' => $this->socket, 'machine' => $this->machine, 'mac' => bin2hex($this->mac), 'port' => $this->port];
    }

    /** @param  array{socket: string, machine: string, mac: string, port: int|null}  $kept */
    public static function fromArray(array $kept): self
    {
        return new self($kept['socket'], $kept['machine'], (string) hex2bin($kept['mac']), $kept['port']);
    }
}
