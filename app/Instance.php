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

    /** @return list<string> the names and addresses by which browsers may ask for the pages, in lower case, without a port */
    public static function hosts(): array
    {
        $listed = is_file(self::path('hosts-known')) ? (string) file_get_contents(self::path('hosts-known')) : '';
        $names = array_filter(preg_split('/[\s,]+/', $listed) ?: [], fn (string $name): bool => $name !== '');

        return array_values(array_unique(array_map(strtolower(...), ['127.0.0.1', 'localhost', '[::1]', ...$names])));
    }

    /** @return list<string> addresses of proxies that speak TLS before this application, whose word on who asks is taken */
    public static function proxies(): array
    {
        $listed = is_file(self::path('proxies')) ? (string) file_get_contents(self::path('proxies')) : '';

        return array_values(array_filter(preg_split('/[\s,]+/', $listed) ?: [], fn (string $one): bool => $one !== ''));
    }

    public static function port(): int
    {
        return is_file(self::path('port')) ? (int) file_get_contents(self::path('port')) : 8480;
    }
}
