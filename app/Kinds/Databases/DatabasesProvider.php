<?php

declare(strict_types=1);

namespace App\Kinds\Databases;

use App\Kinds\KindProvider;

/** What databases need of the application. */
final class DatabasesProvider extends KindProvider
{
    protected function folder(): string
    {
        return __DIR__;
    }

    protected function kind(): string
    {
        return Databases::NAME;
    }
}
