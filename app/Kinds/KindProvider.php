<?php

declare(strict_types=1);

namespace App\Kinds;

use Closure;
use Illuminate\Support\Facades\Route;
use Illuminate\Support\Facades\View as Views;
use Illuminate\Support\ServiceProvider;
use Illuminate\View\View;

/** Takes what lies in a kind's folder: migrations/, routes.php (each asked whether its workload is of the kind), views/. */
abstract class KindProvider extends ServiceProvider
{
    abstract protected function folder(): string;

    abstract protected function kind(): string;

    /** @return array<string, Closure(View): array<string, mixed>> a part of its pages => what it shows, beside what the page gives it */
    protected function parts(): array
    {
        return [];
    }

    public function boot(): void
    {
        foreach ($this->parts() as $part => $shown) {
            Views::composer("kinds.{$this->kind()}.$part", fn (View $view): View => $view->with($shown($view)));
        }
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
