<?php

declare(strict_types=1);

namespace Kaiseki\Core\Database;

use InvalidArgumentException;

/** A place in the logs of one server: a file, and an offset in it. */
final readonly class LogPosition
{
    public function __construct(public string $file, public int $offset)
    {
    }

    /** @throws InvalidArgumentException */
    public static function parse(string $text): self
    {
        if (preg_match('/^(.+):(\d{1,18})$/D', $text, $m) !== 1) {
            throw new InvalidArgumentException("\"$text\" is not a position. Write it as FILE:POSITION, such as binlog.000007:4711.");
        }

        return new self($m[1], (int) $m[2]);
    }

    /** binlog.000007 is number 7 of binlog. */
    public function series(): string
    {
        return preg_replace('/\.\d+$/', '', $this->file) ?? $this->file;
    }

    public function number(): int
    {
        return preg_match('/\.(\d+)$/', $this->file, $m) === 1 ? (int) $m[1] : 0;
    }

    public function isAfter(self $other): bool
    {
        return [$this->number(), $this->offset] > [$other->number(), $other->offset];
    }

    public function text(): string
    {
        return "{$this->file}:{$this->offset}";
    }
}
