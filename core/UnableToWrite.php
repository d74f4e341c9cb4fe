<?php

declare(strict_types=1);

namespace Kaiseki\Core;

use RuntimeException;

/** A file of this machine could not be written, or be read again: the disk is full, or its folder is closed to us. */
final class UnableToWrite extends RuntimeException
{
    private function __construct(public readonly string $path, string $message)
    {
        parent::__construct($message);
    }

    /** @param  string  $what  such as "The set"; the path where that says enough */
    public static function full(string $path, string $what = ''): self
    {
        return new self($path, ($what === '' ? $path : $what).' cannot be written: is the disk full?');
    }

    public static function open(string $path, string $what = ''): self
    {
        return new self($path, ($what === '' ? $path : "$what $path").' cannot be written.');
    }

    public static function readAgain(string $path): self
    {
        return new self($path, "$path cannot be read again.");
    }

    /** What is there is never written over. */
    public static function isThere(string $path): self
    {
        return new self($path, "$path is there already, and is not written over: wait a second, and see whether the clock there goes.");
    }

    public static function named(string $path, string $what): self
    {
        return new self($path, "$what cannot be given its name.");
    }
}
