<?php

declare(strict_types=1);

namespace App\Kinds;

/** What came of putting a run back. */
final readonly class PutBackTold
{
    /**
     * @param  array<string, mixed>  $kept  what the run keeps of it: removed, returned, left, kept
     * @param  array<string, mixed>  $document  for other programs
     * @param  list<string>  $lines  the same for people
     * @param  bool  $isWhole  nothing had to be left
     */
    public function __construct(public array $kept, public array $document, public array $lines, public bool $isWhole)
    {
    }
}
