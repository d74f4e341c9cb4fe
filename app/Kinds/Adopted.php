<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\BackupSet;

/** What came of an adoption. */
final readonly class Adopted
{
    /**
     * @param  list<BackupSet>  $sets
     * @param  list<RefusedFile>  $refused
     */
    public function __construct(public array $sets, public array $refused)
    {
    }
}
