<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files\Internal;

/**
 * POSIX access lists: from the text that tar keeps (acl(5), long and short form) to what Linux takes as the value of
 * system.posix_acl_access (linux/posix_acl_xattr.h: version 2, then tag, permissions and id of each entry).
 */
final class PosixAcl
{
    private const TAGS = [
        'user' => [0x01, 0x02],
        'u' => [0x01, 0x02],
        'group' => [0x04, 0x08],
        'g' => [0x04, 0x08],
        'mask' => [0x10, 0x10],
        'm' => [0x10, 0x10],
        'other' => [0x20, 0x20],
        'o' => [0x20, 0x20],
    ];

    private const NOBODY = 0xFFFFFFFF;

    /** Null if it cannot be understood, or names somebody who is not known here. */
    public static function binary(string $text): ?string
    {
        $entries = [];
        foreach (preg_split('/[,\n]+/', trim($text)) ?: [] as $entry) {
            $entry = trim((string) preg_replace('/\s*#.*$/', '', $entry));
            if ($entry === '') {
                continue;
            }
            // tar may add the number as a fourth part.
            if (preg_match('/^([a-z]+):([^:]*):([r-][w-][x-])(?::(\d+))?$/D', $entry, $m) !== 1 || ! isset(self::TAGS[$m[1]])) {
                return null;
            }
            $id = $m[2] === '' ? self::NOBODY : self::id($m[1][0] === 'u', $m[2], $m[4] ?? null);
            if ($id === null) {
                return null;
            }
            $permissions = ($m[3][0] === 'r' ? 4 : 0) | ($m[3][1] === 'w' ? 2 : 0) | ($m[3][2] === 'x' ? 1 : 0);
            $entries[] = [self::TAGS[$m[1]][$m[2] === '' ? 0 : 1], $id, $permissions];
        }
        sort($entries); // by tag, then by id, as the kernel wants them
        $binary = pack('V', 2);
        foreach ($entries as [$tag, $id, $permissions]) {
            $binary .= pack('vvV', $tag, $permissions, $id);
        }

        return $entries === [] ? null : $binary;
    }

    private static function id(bool $isUser, string $name, ?string $number): ?int
    {
        if (ctype_digit($name)) {
            return (int) $name;
        }
        $known = $isUser ? posix_getpwnam($name) : posix_getgrnam($name);

        return $known !== false ? (int) $known[$isUser ? 'uid' : 'gid'] : ($number === null ? null : (int) $number);
    }
}
