<?php

declare(strict_types=1);

namespace App;

/** This installation's own folder: everything that is written at run time lies below it. */
final class Instance
{
    /** The absolute path of the home, from KAISEKI_HOME, or var/ in the checkout. */
    public static function home(): string
    {
        $home = getenv('KAISEKI_HOME');

        return $home === false || $home === '' ? dirname(__DIR__).'/var' : rtrim($home, '/');
    }

    public static function path(string $below): string
    {
        return self::home().'/'.$below;
    }

    /** The same, as a folder that exists. */
    public static function folder(string $below): string
    {
        $path = self::path($below);
        if (! is_dir($path) && ! @mkdir($path, 0700, true) && ! is_dir($path)) {
            throw new CannotUseHome("The folder $path cannot be made. Check that KAISEKI_HOME may be written to.");
        }

        return $path;
    }

    public static function port(): int
    {
        return is_file(self::path('port')) ? (int) file_get_contents(self::path('port')) : 8480;
    }
}
