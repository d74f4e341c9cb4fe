<?php

declare(strict_types=1);

namespace Kaiseki\Core\Proof;

use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\RestoreOrder;

/**
 * Permissions as commands for a person: a shell script (POSIX sh) that gives what stands in a folder the owners, modes and access lists of
 * an order, and changes nothing else. It needs chown, chmod and setfacl; how things were is kept as `setfacl --restore` takes it.
 */
final class PermissionSheet
{
    /**
     * @param  list<string>  $remarks  lines that stand at its head
     * @return iterable<string> the script in pieces
     */
    public static function script(string $title, array $remarks, RestoreOrder $order): iterable
    {
        yield "#!/bin/sh\n# ".Shown::name($title)."\n";
        foreach ($remarks as $line) {
            yield '# '.Shown::name($line)."\n";
        }
        yield <<<'SH'
        # usage: sh THIS-SHEET FOLDER [KEPT]
        set -eu
        export LC_ALL=C
        [ $# -ge 1 ] && [ -d "$1" ] || { echo "usage: sh $0 FOLDER [KEPT]" >&2; exit 2; }
        kept=${2:-$PWD/permissions-before.acl}
        [ ! -e "$kept" ] || { echo "$kept is there already: how things were before is not written over it" >&2; exit 2; }
        case $kept in /*) ;; *) kept=$PWD/$kept ;; esac
        cd "$1"
        # To take it all back: cd FOLDER && setfacl --restore=KEPT
        getfacl --recursive --physical . >"$kept"
        [ "$(id -u)" -ne 0 ] || own=1
        wrong=0
        give() { # PATH OWNER NUMBERS MODE LIST
          if [ -L "$1" ] || [ ! -e "$1" ]; then echo "not there: $1" >&2; wrong=1; return; fi
          [ -z "${own-}" ] || chown -- "$2" "$1" 2>/dev/null || chown -- "$3" "$1"
          setfacl --remove-all -- "$1"
          [ -z "$5" ] || setfacl --set "$5" -- "$1" || { echo "no list: $1" >&2; wrong=1; }
          chmod -- "$4" "$1"
        }

        SH;
        yield "\n";
        foreach (array_reverse($order->items, true) as $path => $packed) {
            $version = Version::unpack($packed);
            if ($version->kind !== EntryKind::Symlink && RestoreOrder::leftOut((string) $path, $version) === null) {
                yield self::line((string) $path, $version, $order);
            }
        }
        yield "exit \$wrong\n";
    }

    private static function line(string $path, Version $version, RestoreOrder $order): string
    {
        if ($version->access === AccessList::NOT_KNOWN) {
            return 'echo '.HandSheet::quoted('its list is too long to stand here: ./'.Shown::name($path))." >&2; wrong=1\n";
        }
        $mode = $version->kind === EntryKind::Folder ? $version->mode : $order->modeOf($version);
        $words = ["./$path", $version->owner(), "$version->uid:$version->gid", sprintf('%04o', $mode), $version->access];

        return 'give '.implode(' ', array_map(HandSheet::quoted(...), $words))."\n";
    }
}
