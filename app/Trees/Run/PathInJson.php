<?php

declare(strict_types=1);

namespace App\Trees\Run;

use Kaiseki\Core\Catalog\Shown;

/** How a path of bytes is written in JSON: as it is, or percent-encoded and marked so where it is not UTF-8. */
final class PathInJson
{
    /** @return array{path: string, encoded?: true} */
    public static function of(string $path): array
    {
        return Shown::isUtf8($path) ? ['path' => $path] : ['path' => Shown::percentEncoded($path), 'encoded' => true];
    }

    /**
     * As a page shows it, from the top.
     *
     * @param  array<string, mixed>  $row
     */
    public static function shown(array $row): string
    {
        return '/'.Shown::name(ltrim(self::parse($row), '/'));
    }

    /** @param  array<string, mixed>  $row */
    public static function parse(array $row): string
    {
        return ($row['encoded'] ?? false) === true ? rawurldecode($row['path']) : $row['path'];
    }
}
