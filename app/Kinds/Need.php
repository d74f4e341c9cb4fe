<?php

declare(strict_types=1);

namespace App\Kinds;

use Symfony\Component\Process\ExecutableFinder;

/** A program that a kind needs on this machine. */
final readonly class Need
{
    public function __construct(
        /** As it is called, such as "mariadb-dump". */
        public string $program,
        /** The Debian package that has it. */
        public string $package,
        /** What that takes when it is installed, about; 10^6 bytes. */
        public int $megabytes,
        /** What is done with it. */
        public string $for,
    ) {
    }

    public function isThere(): bool
    {
        return (new ExecutableFinder)->find($this->program, null, ['/usr/sbin', '/usr/local/sbin']) !== null;
    }

    /**
     * How a person has them installed; null if all are there.
     *
     * @param  list<self>  $needs
     */
    public static function command(array $needs): ?string
    {
        $missing = array_filter($needs, fn (self $need): bool => ! $need->isThere());
        $packages = array_unique(array_map(fn (self $need): string => $need->package, $missing));

        return $packages === [] ? null : 'apt-get install '.implode(' ', $packages);
    }
}
