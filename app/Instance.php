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

    /**
     * A secret that is made when it is first needed. Of two processes that are first at once, the one that links first wins, and both
     * use what that made.
     *
     * @param  string  $name  of its file below keys/
     * @param  \Closure(): string  $make
     */
    public static function secret(string $name, \Closure $make): string
    {
        $path = self::folder('keys')."/$name";
        if (! is_file($path)) {
            $new = "$path.".bin2hex(random_bytes(6));
            file_put_contents($new, $make());
            chmod($new, 0600);
            @link($new, $path);
            @unlink($new);
        }

        return (string) file_get_contents($path);
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
