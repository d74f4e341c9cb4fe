<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

/** A security descriptor ([MS-DTYP] 2.4.6), with its text in the security descriptor definition language (2.5.1). */
final readonly class AccessList
{
    private const PROTECTED = 0x1000;

    private const INHERITED = 0x0400;

    private const HAS_LIST = 0x0004;

    private const TYPES = [0 => 'A', 1 => 'D', 2 => 'AU'];

    private const FLAGS = [0x01 => 'OI', 0x02 => 'CI', 0x04 => 'NP', 0x08 => 'IO', 0x10 => 'ID', 0x40 => 'SA', 0x80 => 'FA'];

    private const RIGHTS = [0x1F01FF => 'FA', 0x120089 => 'FR', 0x120116 => 'FW', 0x1200A0 => 'FX'];

    private function __construct(public ?string $owner, public ?string $group, public string $sddl)
    {
    }

    /** Null if it is none. */
    public static function of(string $bytes): ?self
    {
        $head = strlen($bytes) >= 20 ? unpack('Crevision/x/vcontrol/Vowner/Vgroup/x4/Vlist', $bytes) : false;
        if ($head === false || $head['revision'] !== 1) {
            return null;
        }
        [$owner, $group] = [self::sid($bytes, $head['owner']), self::sid($bytes, $head['group'])];
        $list = ($head['control'] & self::HAS_LIST) === 0 ? null : self::entries($bytes, $head['list']);
        $sddl = ($owner === null ? '' : "O:$owner").($group === null ? '' : "G:$group").($list === null ? '' : 'D:'.
            (($head['control'] & self::PROTECTED) !== 0 ? 'P' : '').(($head['control'] & self::INHERITED) !== 0 ? 'AI' : '').$list);

        return new self($owner, $group, $sddl);
    }

    /** "S-1-5-32-544": 2.4.2.1. */
    private static function sid(string $bytes, int $at): ?string
    {
        $count = ord($bytes[$at + 1] ?? "\xff");
        if ($at === 0 || $count > 15 || strlen($bytes) < $at + 8 + 4 * $count) {
            return null;
        }
        $authority = unpack('J', "\0\0".substr($bytes, $at + 2, 6))[1] ?? 0;

        return implode('-', ['S', ord($bytes[$at]), $authority, ...array_values(unpack("V$count", $bytes, $at + 8) ?: [])]);
    }

    private static function entries(string $bytes, int $at): string
    {
        if ($at === 0 || strlen($bytes) < $at + 8) {
            return 'NO_ACCESS_CONTROL';
        }
        $text = '';
        ['size' => $size, 'count' => $count] = unpack('x2/vsize/vcount', $bytes, $at) ?: ['size' => 0, 'count' => 0];
        $end = min(strlen($bytes), $at + $size);
        for ($at += 8; $count > 0 && $at + 8 <= $end; $count--, $at += max(8, $entry['size'])) {
            $entry = unpack('Ctype/Cflags/vsize/Vmask', $bytes, $at);
            assert($entry !== false);
            $type = self::TYPES[$entry['type']] ?? sprintf('0x%x', $entry['type']);
            $flags = implode('', array_filter(self::FLAGS, fn (int $bit): bool => ($entry['flags'] & $bit) !== 0, ARRAY_FILTER_USE_KEY));
            $rights = self::RIGHTS[$entry['mask']] ?? sprintf('0x%x', $entry['mask']);
            $text .= "($type;$flags;$rights;;;".(isset(self::TYPES[$entry['type']]) ? self::sid($bytes, $at + 8) ?? '' : '').')';
        }

        return $text;
    }
}
