<?php

declare(strict_types=1);

namespace App\Kinds;

/** What of a point can be given back. */
final readonly class Usability
{
    /** @param  'whole'|'part'|'no'  $state */
    private function __construct(public string $state, public ?string $because)
    {
    }

    public static function whole(): self
    {
        return new self('whole', null);
    }

    public static function part(string $because): self
    {
        return new self('part', $because);
    }

    public static function no(string $because): self
    {
        return new self('no', $because);
    }

    public function isWhole(): bool
    {
        return $this->because === null;
    }
}
