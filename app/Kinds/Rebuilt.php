<?php

declare(strict_types=1);

namespace App\Kinds;

/** What was taken in again. */
final class Rebuilt
{
    /** @var list<RebuiltSet> */
    public array $sets = [];

    /** @var list<RefusedFile> */
    public array $problems = [];
}
