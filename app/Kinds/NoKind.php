<?php

declare(strict_types=1);

namespace App\Kinds;

use RuntimeException;

/** What config/kinds.php or KAISEKI_KINDS names cannot be taken for kinds. */
final class NoKind extends RuntimeException
{
    private function __construct(public readonly string $named, string $message)
    {
        parent::__construct($message);
    }

    public static function ofClass(string $class): self
    {
        return new self($class, "$class is no kind of workload: it does not implement ".Kind::class.'.');
    }

    public static function inFile(string $file): self
    {
        return new self($file, "KAISEKI_KINDS names $file, which returns no list of classes.");
    }

    public static function takingAgents(): self
    {
        return new self('', 'No kind of workload is installed that takes machines with an agent.');
    }
}
