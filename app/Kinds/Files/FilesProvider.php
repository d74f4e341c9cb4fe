<?php

declare(strict_types=1);

namespace App\Kinds\Files;

use App\Kinds\Files\Page\FilesRunView;
use App\Kinds\KindProvider;
use Illuminate\View\View;

/** What files need of the application. */
final class FilesProvider extends KindProvider
{
    protected function parts(): array
    {
        return [
            'run' => fn (View $view): array => ['view' => new FilesRunView($view['run'])],
        ];
    }

    protected function folder(): string
    {
        return __DIR__;
    }

    protected function kind(): string
    {
        return Files::NAME;
    }
}
