<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Generator;
use Kaiseki\Core\Files\OctalEscapes;
use Kaiseki\Core\Volume\PosixAccessList;

/** Attributes of many files, as getfattr(1) --dump --encoding=hex writes them. */
final class AttributeDump
{
    private const LISTS = ['system.posix_acl_access' => 'SCHILY.acl.access', 'system.posix_acl_default' => 'SCHILY.acl.default'];

    /** The same lists once more, as XFS keeps them and shows to root. */
    private const TWICE = ['trusted.SGI_ACL_FILE', 'trusted.SGI_ACL_DEFAULT'];

    /** A line that is longer holds no attribute: those of Linux have 64 KiB at most. */
    private const LONGEST = 262_144;

    /**
     * "# file: PATH", then NAME=0xHEX a line; odd bytes of names as \ooo.
     *
     * @param  resource  $from
     * @return Generator<string, array<string, string>> path => attributes as TarEntry::$extended has them
     */
    public static function read($from): Generator
    {
        rewind($from);
        $path = null;
        $found = [];
        while (true) {
            $line = fgets($from, self::LONGEST);
            if (($line === false || trim($line) === '') && $path !== null) {
                yield $path => $found;
                [$path, $found] = [null, []];
            }
            if ($line === false) {
                return;
            }
            if (str_starts_with($line, '# file: ')) {
                $path = preg_replace('~^\./~', '', OctalEscapes::undone(rtrim(substr($line, 8), "\n"))) ?? '';
            } elseif (preg_match('/^(.+?)=(?:0x((?:[0-9a-f]{2})*)|"")$/D', rtrim($line, "\n"), $m) === 1) {
                $name = OctalEscapes::undone($m[1]);
                $value = (string) hex2bin($m[2] ?? '');
                if (isset(self::LISTS[$name])) {
                    $found[self::LISTS[$name]] = PosixAccessList::text($value) ?? '';
                } elseif (! in_array($name, self::TWICE, true)) {
                    $found["SCHILY.xattr.$name"] = $value;
                }
            }
        }
    }
}
