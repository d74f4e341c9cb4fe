<?php

declare(strict_types=1);

namespace Kaiseki\Core\Hypervisor;

use Closure;
use Kaiseki\Core\Machine\SparseDisk;

/** Gives disks to be read at a socket of this machine, to several clients at a time, until it is told to end. */
final class NbdServer
{
    private const CLIENTS = 32;

    /** Bytes that wait to be sent to a client before it is listened to again. */
    private const WAITING = 1 << 20;

    private const PIECE = 1 << 18;

    /** Seconds after which it looks up, whether anybody asks or not. */
    private const LOOKS_UP = 1;

    /** @var array<int, resource> */
    private array $wires = [];

    /** @var array<int, NbdSession> */
    private array $sessions = [];

    /**
     * @param  array<string, SparseDisk>  $disks  by the names they are served under
     * @param  Closure(string, int, int, ?string): void  $told  as NbdSession has it
     */
    public function __construct(private readonly array $disks, private readonly Closure $told)
    {
    }

    /**
     * @param  resource  $listener  a socket that listens
     * @param  Closure(int): bool  $goesOn  asked about once a second, with how many clients there are: whether it serves any longer
     */
    public function run($listener, Closure $goesOn): void
    {
        stream_set_blocking($listener, false);
        while ($goesOn(count($this->wires))) {
            $read = $this->wiresOf(fn (NbdSession $session): bool => strlen($session->said()) < self::WAITING);
            count($this->wires) < self::CLIENTS && $read[] = $listener;
            $write = $this->wiresOf(fn (NbdSession $session): bool => $session->said() !== '');
            $except = null;
            if (@stream_select($read, $write, $except, self::LOOKS_UP) === false) {
                continue; // a signal; the next look tells
            }
            foreach ($read as $wire) {
                $wire === $listener ? $this->greet($listener) : $this->hear((int) $wire);
            }
            foreach ($write as $wire) {
                $this->say((int) $wire);
            }
        }
        array_map($this->part(...), array_keys($this->wires));
    }

    /**
     * @param  Closure(NbdSession): bool  $isMeant
     * @return array<int, resource>
     */
    private function wiresOf(Closure $isMeant): array
    {
        return array_filter($this->wires, fn (int $id): bool => $isMeant($this->sessions[$id]), ARRAY_FILTER_USE_KEY);
    }

    /** @param  resource  $listener */
    private function greet($listener): void
    {
        $wire = @stream_socket_accept($listener, 0);
        if ($wire !== false) {
            stream_set_blocking($wire, false);
            $this->wires[(int) $wire] = $wire;
            $this->sessions[(int) $wire] = new NbdSession($this->disks, $this->told);
            $this->say((int) $wire);
        }
    }

    private function hear(int $id): void
    {
        $bytes = @fread($this->wires[$id], self::PIECE);
        if ($bytes === false || ($bytes === '' && feof($this->wires[$id]))) {
            $this->part($id);

            return;
        }
        $this->sessions[$id]->heard($bytes);
        $this->say($id);
    }

    /** Answers what can be answered as long as it can be sent too. */
    private function say(int $id): void
    {
        $session = $this->sessions[$id] ?? null;
        while ($session !== null) {
            while (strlen($session->said()) < self::WAITING && $session->goOn()) {
                continue;
            }
            $said = $session->said();
            $sent = $said === '' ? 0 : @fwrite($this->wires[$id], $said);
            if ($sent === false || ($session->hasEnded && $sent === strlen($said))) {
                $this->part($id);

                return;
            }
            $session->sent($sent);
            if ($sent < strlen($said) || $said === '') {
                return;
            }
        }
    }

    private function part(int $id): void
    {
        fclose($this->wires[$id]);
        unset($this->wires[$id], $this->sessions[$id]);
    }
}
