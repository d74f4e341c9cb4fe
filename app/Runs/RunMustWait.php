<?php

declare(strict_types=1);

namespace App\Runs;

use RuntimeException;

/** Something must come before the run can go on. It is no failure: the run goes on by itself when it has come. */
final class RunMustWait extends RuntimeException
{
    /** @param  list<string>  $for  a store's name, STORE/LABEL, or what the kind of the run knows (AwaitsOthers) */
    private function __construct(string $message, public readonly array $for)
    {
        parent::__construct($message);
    }

    /** @param  list<string>  $cartridges  STORE/LABEL */
    public static function forCartridges(array $cartridges): self
    {
        return new self(
            'waits for '.
                implode(' and ', array_map(fn (string $name): string => substr((string) strrchr($name, '/'), 1), $cartridges)).
                ' from the shelf',
            $cartridges,
        );
    }

    /** @param  list<string>  $things  in words, as the kind of the run knows them again */
    public static function forOthers(array $things): self
    {
        return new self('waits for '.implode(' and ', $things).' to be made', $things);
    }

    /** @param  array<string, string>  $silent  store => in what words */
    public static function forStores(array $silent): self
    {
        return new self(
            'waits for the store '.implode(' and ', array_keys($silent)).': '.implode('; ', $silent),
            array_map(strval(...), array_keys($silent)),
        );
    }
}
