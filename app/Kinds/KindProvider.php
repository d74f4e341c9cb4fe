<?php

declare(strict_types=1);

namespace App\Kinds;

use Illuminate\Support\Facades\Route;
use Illuminate\Support\ServiceProvider;

/** Takes what lies in a kind's folder: migrations/, routes.php (each asked whether its workload is of the kind), views/. */
abstract class KindProvider extends ServiceProvider
{
    abstract protected function folder(): string;

    abstract protected function kind(): string;

    public function boot(): void
    {
        if (is_dir("{$this->folder()}/migrations")) {
            $this->loadMigrationsFrom("{$this->folder()}/migrations");
        }
        if (is_dir("{$this->folder()}/views")) {
            $this->loadViewsFrom("{$this->folder()}/views", $this->kind());
        }
        if (is_file("{$this->folder()}/routes.php")) {
            Route::middleware(['web', 'auth', OfKind::class.':'.$this->kind()])->group("{$this->folder()}/routes.php");
        }
    }
}
