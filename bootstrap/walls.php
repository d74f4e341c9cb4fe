<?php

declare(strict_types=1);

use App\Instance;

// What root types is done by the application's account, where the home has walls (docs/security.md).
if (function_exists('posix_geteuid') && posix_geteuid() === 0 && is_file(Instance::path('walls'))) {
    $arguments = array_slice($_SERVER['argv'] ?? [], 1);
    $walls = dirname(__DIR__).'/bin/walls';
    putenv('KAISEKI_HOME='.Instance::home());
    basename($_SERVER['argv'][0] ?? '') === 'artisan'
        ? pcntl_exec("$walls/enter", ['kaiseki', '--', '/usr/bin/php8.2', dirname(__DIR__).'/artisan', ...$arguments], getenv())
        : pcntl_exec("$walls/command", $arguments, getenv());
    fwrite(STDERR, "$walls cannot be run.\n");
    exit(3);
}
