<?php

declare(strict_types=1);

namespace App\People;

use Illuminate\Support\Facades\Cookie;
use Illuminate\Support\Str;

/**
 * Tells browsers apart, whoever signs in with them: a cookie that signing in gives and signing out leaves. Who asks for something and who
 * says yes to it are two people; one person with two accounts mostly has one browser.
 */
final class BrowserMark
{
    public const COOKIE = 'kaiseki_browser';

    private const MINUTES = 400 * 24 * 60;

    /** Gives the browser one, if it has none. */
    public static function give(): void
    {
        if (self::current() === null) {
            Cookie::queue(Cookie::make(self::COOKIE, Str::random(40), self::MINUTES, sameSite: 'strict'));
        }
    }

    /** What is kept of it: nobody can take a browser for another by reading it. Null at the terminal, and where there is none. */
    public static function current(): ?string
    {
        $mark = request()->cookie(self::COOKIE);

        return is_string($mark) && strlen($mark) === 40 ? hash('sha256', $mark) : null;
    }

    /** Whether something was asked for from the browser in which it is decided now. */
    public static function isThisOne(?string $from): bool
    {
        return $from !== null && hash_equals($from, (string) self::current());
    }
}
