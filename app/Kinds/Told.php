<?php

declare(strict_types=1);

namespace App\Kinds;

use Closure;

/** What a command answers. */
final readonly class Told
{
    /**
     * @param  int  $code  exit code
     * @param  array<string, mixed>  $document  for other programs
     * @param  Closure(): iterable<string>  $lines  the same for people
     */
    public function __construct(public int $code, public array $document, public Closure $lines)
    {
    }
}
