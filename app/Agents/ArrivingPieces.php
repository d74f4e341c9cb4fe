<?php

declare(strict_types=1);

namespace App\Agents;

use Kaiseki\Core\Archive\RawBytes;
use Kaiseki\Core\Archive\UnreadableArchive;

/** What an agent sends, one piece after the other, each waited for. */
final class ArrivingPieces implements RawBytes
{
    private string $bytes = '';

    private int $at = 0;

    private int $piece = 0;

    private int $before = 0;

    private bool $ended = false;

    public function __construct(private readonly AgentOrder $order)
    {
    }

    public function read(int $length): string
    {
        if ($this->at >= strlen($this->bytes) && ! $this->ended) {
            $this->before += strlen($this->bytes);
            $next = $this->order->piece($this->piece++);
            [$this->bytes, $this->at, $this->ended] = [$next ?? '', 0, $next === null];
        }
        $bytes = substr($this->bytes, $this->at, $length);
        $this->at += strlen($bytes);

        return $bytes;
    }

    public function seek(int $offset): void
    {
        $offset === $this->before + $this->at || throw UnreadableArchive::cannotOpen('it is only read forward');
    }

    /** So far. */
    public function size(): int
    {
        return $this->before + strlen($this->bytes);
    }
}
