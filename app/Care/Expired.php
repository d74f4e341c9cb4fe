<?php

declare(strict_types=1);

namespace App\Care;

/** What was deleted, and what could not be. */
final class Expired
{
    public int $copies = 0;

    /** Bytes that this freed. */
    public int $bytes = 0;

    /** Sets that are gone with their last copy. */
    public int $sets = 0;

    /** @var list<string> what could not be deleted, and why */
    public array $failed = [];
}
