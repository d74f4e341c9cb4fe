<?php

declare(strict_types=1);

namespace App\Kinds;

/** What was taken in again. */
final class Rebuilt
{
    /** @var list<array{workload: string, set: string, from: string}> from: manifest, archive or known */
    public array $sets = [];

    /** @var list<array{file: string, because: string}> */
    public array $problems = [];
}
