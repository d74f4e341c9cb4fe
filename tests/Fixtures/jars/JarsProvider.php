<?php

declare(strict_types=1);

namespace Outside\Jars;

use App\Kinds\KindProvider;

final class JarsProvider extends KindProvider
{
    protected function folder(): string
    {
        return __DIR__;
    }

    protected function kind(): string
    {
        return 'jars';
    }
}
