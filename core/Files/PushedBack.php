<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\ByteStream;
use Kaiseki\Core\Archive\Place;

/** A stream of which some bytes were read already, and come once more. */
final class PushedBack implements ByteStream
{
    public function __construct(private string $lead, private readonly ByteStream $rest)
    {
    }

    public function read(int $length): string
    {
        if ($this->lead === '') {
            return $this->rest->read($length);
        }
        $bytes = substr($this->lead, 0, $length);
        $this->lead = substr($this->lead, strlen($bytes));

        return strlen($bytes) === $length ? $bytes : $bytes.$this->rest->read($length - strlen($bytes));
    }

    public function skip(int $length): int
    {
        $here = min($length, strlen($this->lead));
        $this->lead = substr($this->lead, $here);

        return $here + ($here === $length ? 0 : $this->rest->skip($length - $here));
    }

    public function position(): int
    {
        return $this->rest->position() - strlen($this->lead);
    }

    /** Of what comes after the bytes that were pushed back; before that nobody asks. */
    public function place(): Place
    {
        return $this->rest->place();
    }
}
