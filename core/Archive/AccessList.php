<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

/**
 * Who may do what with a file or a folder beyond what its mode says: a POSIX access list (acl(5)) as one line of text, with the entries
 * that a folder hands on behind "default:", as getfacl prints them and setfacl takes them.
 */
final readonly class AccessList
{
    /** Of one that is too long for the catalog, or that nobody understands: the archive alone has it. */
    public const NOT_KNOWN = '?';

    private const ACCESS = 'SCHILY.acl.access';

    private const DEFAULT = 'SCHILY.acl.default';

    /** Bytes of a list that the catalog holds (versions.attributes has 8,192). */
    private const LONGEST = 6_000;

    /** @param  list<AccessEntry>  $entries  in the order of acl(5), those that are handed on last */
    private function __construct(public array $entries)
    {
    }

    /** Null if it cannot be understood. */
    public static function of(string $text): ?self
    {
        return self::read([[$text, false]]);
    }

    /**
     * What a member of an archive says, as the catalog has it.
     *
     * @param  array<string, string>  $extended  see TarEntry::$extended
     */
    public static function textOfMember(array $extended): string
    {
        if (! isset($extended[self::ACCESS]) && ! isset($extended[self::DEFAULT])) {
            return '';
        }

        return self::forCatalog(self::read([[$extended[self::ACCESS] ?? '', false], [$extended[self::DEFAULT] ?? '', true]]));
    }

    /** @param  string  $keyword  of TarEntry::$extended */
    public static function isOfList(string $keyword): bool
    {
        return $keyword === self::ACCESS || $keyword === self::DEFAULT;
    }

    /** What somebody says of a list, as the catalog has it. */
    public static function textOf(string $text): string
    {
        return self::forCatalog(self::of($text));
    }

    /** '' if it says no more than a mode does. */
    public function text(): string
    {
        return implode(',', array_map(fn (AccessEntry $entry): string => $entry->text(), $this->isPlain() ? [] : $this->entries));
    }

    /** @return array<string, string> as a member of an archive has it, see TarEntry::$extended */
    public function member(): array
    {
        $of = fn (bool $isDefault): string => implode("\n", array_map(
            fn (AccessEntry $entry): string => "$entry->tag:$entry->who:$entry->may",
            $this->entries($isDefault),
        ));

        return array_filter([self::ACCESS => $of(false), self::DEFAULT => $of(true)], fn (string $text): bool => $text !== '');
    }

    /** @return list<AccessEntry> those of the thing itself, or those that it hands on */
    public function entries(bool $isDefault): array
    {
        return array_values(array_filter($this->entries, fn (AccessEntry $entry): bool => $entry->isDefault === $isDefault));
    }

    /** What the owning group may, of which the mode shows the mask in its place. */
    public function ofGroup(): int
    {
        $bits = 7;
        foreach ($this->entries(false) as $entry) {
            $bits &= $entry->tag === 'mask' || ($entry->tag === 'group' && $entry->who === '') ? $entry->bits() : 7;
        }

        return $bits;
    }

    private static function forCatalog(?self $list): string
    {
        $text = $list?->text() ?? self::NOT_KNOWN;

        return strlen($text) > self::LONGEST ? self::NOT_KNOWN : $text;
    }

    /** @param  list<array{string, bool}>  $texts  entries by commas or lines, and whether they are those that are handed on */
    private static function read(array $texts): ?self
    {
        $entries = [];
        foreach ($texts as [$text, $isDefault]) {
            foreach (preg_split('/[,\n]+/', trim($text)) ?: [] as $one) {
                $one = trim((string) preg_replace('/\s*#.*$/', '', $one));
                $entry = $one === '' ? null : AccessEntry::of($one, $isDefault);
                if ($one !== '' && $entry === null) {
                    return null;
                }
                $entry === null || $entries[$entry->key()] = $entry;
            }
        }
        uasort($entries, fn (AccessEntry $a, AccessEntry $b): int => self::rank($a) <=> self::rank($b));

        return new self(array_values($entries));
    }

    /** @return array{bool, int, bool, string} */
    private static function rank(AccessEntry $entry): array
    {
        return [$entry->isDefault, (int) array_search($entry->tag, AccessEntry::TAGS, true), $entry->who !== '', $entry->who];
    }

    /** Whether a mode says all of it. */
    private function isPlain(): bool
    {
        foreach ($this->entries as $entry) {
            if ($entry->isDefault || $entry->who !== '' || $entry->tag === 'mask') {
                return false;
            }
        }

        return true;
    }
}
