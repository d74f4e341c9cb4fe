<?php

declare(strict_types=1);

namespace App\Kinds;

/** A kind that needs processes beside the application's own for as long as something is so. */
interface HasHelpers
{
    /**
     * Those that are needed now. Asked several times a second: it only looks.
     *
     * @return array<string, non-empty-list<string>> name => arguments of an artisan command, which ends by itself when it is not needed
     */
    public function helpers(): array;
}
