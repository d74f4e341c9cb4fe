<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\AccessEntry;
use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Volume\PosixAccessList;

/**
 * An access list as Linux takes it for system.posix_acl_access and system.posix_acl_default (linux/posix_acl_xattr.h: version 2, then tag,
 * permissions and id of each entry), with the people of this machine.
 */
final readonly class PosixAcl
{
    public const ACCESS = 'system.posix_acl_access';

    public const DEFAULT = 'system.posix_acl_default';

    /** Of the thing's own entry, and of one for somebody. */
    private const TAGS = ['user' => [0x01, 0x02], 'group' => [0x04, 0x08], 'mask' => [0x10, 0x10], 'other' => [0x20, 0x20]];

    private const NOBODY = 0xFFFFFFFF;

    /** @param  list<string>  $unknown  names in it whom nobody knows here: they are left out of it */
    private function __construct(public ?string $access, public ?string $default, public array $unknown)
    {
    }

    /** What cannot be understood is no list. */
    public static function ofText(string $text): self
    {
        $list = AccessList::of($text);
        $unknown = [];
        $of = function (bool $isDefault) use ($list, &$unknown): ?string {
            $entries = [];
            foreach ($list?->entries($isDefault) ?? [] as $entry) {
                $id = $entry->who === '' ? self::NOBODY : self::id($entry);
                if ($id === null) {
                    $unknown[$entry->who] = $entry->who;
                } else {
                    $entries[] = [self::TAGS[$entry->tag][$entry->who === '' ? 0 : 1], $id, $entry->bits()];
                }
            }
            sort($entries); // by tag, then by id, as the kernel wants them

            return $entries === [] ? null : pack('V', 2).implode('', array_map(
                fn (array $entry): string => pack('vvV', $entry[0], $entry[2], $entry[1]),
                $entries,
            ));
        };

        return new self($of(false), $of(true), array_values($unknown));
    }

    /** The text of what Linux says, with names where somebody has the number; '' for no list. */
    public static function text(?string $access, ?string $default): string
    {
        $lines = [];
        foreach (['' => $access, 'default:' => $default] as $before => $bytes) {
            foreach ($bytes === null ? [] : explode(',', (string) PosixAccessList::text($bytes)) as $line) {
                $entry = AccessEntry::of($line);
                if ($entry !== null) {
                    $who = $entry->who === '' ? '' : self::nameOf($entry->tag === 'user', (int) $entry->who);
                    $lines[] = "$before$entry->tag:$who:$entry->may";
                }
            }
        }

        return AccessList::textOf(implode(',', $lines));
    }

    /** Whether two texts are the same list here: a name in it counts as whom it stands for. */
    public static function areSame(string $one, string $other): bool
    {
        if ($one === $other) {
            return true;
        }
        [$one, $other] = [self::ofText($one), self::ofText($other)];

        return $one->access === $other->access && $one->default === $other->default;
    }

    /** The number where nobody has it here, or where the name is none that a list can hold. */
    public static function nameOf(bool $isUser, int $id): string
    {
        static $names = [];
        $known = $names[$isUser ? 'u' : 'g'][$id] ??=
            ($isUser ? posix_getpwuid($id) : posix_getgrgid($id))['name'] ?? (string) $id;

        return preg_match('/^[^:\s,#]+$/D', $known) === 1 ? $known : (string) $id;
    }

    private static function id(AccessEntry $entry): ?int
    {
        if (ctype_digit($entry->who)) {
            return min(self::NOBODY - 1, (int) $entry->who);
        }
        $known = $entry->tag === 'user' ? posix_getpwnam($entry->who) : posix_getgrnam($entry->who);

        return $known !== false ? (int) $known[$entry->tag === 'user' ? 'uid' : 'gid'] : $entry->number;
    }
}
