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

    /** @param  array<string, mixed>  $row */
    public static function parse(array $row): string
    {
        return ($row['encoded'] ?? false) === true ? rawurldecode($row['path']) : $row['path'];
    }
}
