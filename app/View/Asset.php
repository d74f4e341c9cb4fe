<?php

declare(strict_types=1);

namespace App\View;

/** Addresses of built assets, which change with their content so that browsers may keep them for ever. */
final class Asset
{
    public static function url(string $name): string
    {
        return "/assets/$name?".substr(md5_file(public_path("assets/$name")) ?: '', 0, 10);
    }
}
