<?php

declare(strict_types=1);

namespace App\Kinds\Files;

use App\Kinds\KindProvider;

/** What files need of the application. */
final class FilesProvider extends KindProvider
{
    protected function folder(): string
    {
        return __DIR__;
    }

    protected function kind(): string
    {
        return Files::NAME;
    }
}
