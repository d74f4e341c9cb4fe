<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

/** Names as getfattr(1) and /proc write them (proc(5), mountinfo): odd bytes, and a backslash itself, as \ and three octal digits. */
final class OctalEscapes
{
    public static function undone(string $escaped): string
    {
        $byte = fn (array $of): string => chr((int) octdec($of[1]) & 0xFF);

        return (string) preg_replace_callback('/\\\\([0-7]{3})/', $byte, $escaped);
    }
}
