<?php

declare(strict_types=1);

// What root types is done by the application's account, where the home has walls (docs/security.md). Before anything else is loaded.
$home = (string) getenv('KAISEKI_HOME');
$home = match (true) {
    $home === '' => dirname(__DIR__).'/var',
    $home[0] !== '/' => getcwd()."/$home",
    default => $home,
};
if (function_exists('posix_geteuid') && posix_geteuid() === 0 && is_file("$home/walls")) {
    $arguments = array_slice($_SERVER['argv'] ?? [], 1);
    $walls = dirname(__DIR__).'/bin/walls';
    putenv("KAISEKI_HOME=$home");
    basename($_SERVER['argv'][0] ?? '') === 'artisan'
        ? pcntl_exec("$walls/enter", ['kaiseki', '--', '/usr/bin/php8.2', dirname(__DIR__).'/artisan', ...$arguments], getenv())
        : pcntl_exec("$walls/command", $arguments, getenv());
    fwrite(STDERR, "$walls cannot be run.\n");
    exit(3);
}
unset($home);
