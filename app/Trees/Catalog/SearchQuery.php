<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

use InvalidArgumentException;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\NameList;
use Kaiseki\Core\Catalog\Version;

/** What is looked for in the catalog; what is null or '' is not asked about. */
final readonly class SearchQuery
{
    public function __construct(
        /** With * and ? for the whole name, and with a slash for the end of the path; without them anywhere in the name, in any case. */
        public string $name = '',
        /** Words in the content. */
        public string $text = '',
        /** Bytes. */
        public ?int $sizeFrom = null,
        public ?int $sizeTo = null,
        /** Nanoseconds since 1970, of the last change. */
        public ?int $changedFrom = null,
        public ?int $changedTo = null,
        /** The name of a user, or a number. */
        public string $owner = '',
        public ?EntryKind $kind = null,
        /** Microseconds since 1970: only what was there at or after, or at or before, this moment. */
        public ?int $from = null,
        public ?int $to = null,
        /** A part of the name of who wrote the document, or a version of it, as the library that it is in says. */
        public string $author = '',
    ) {
    }

    public function isEmpty(): bool
    {
        return $this->name === '' &&
            $this->text === '' &&
            $this->sizeFrom === null &&
            $this->sizeTo === null &&
            $this->changedFrom === null &&
            $this->changedTo === null &&
            $this->owner === '' &&
            $this->author === '' &&
            $this->kind === null;
    }

    /** The same of one version at hand: its path, its attributes; not its words, not its author, and not when it was there. */
    public function fits(string $path, Version $version): bool
    {
        return ($this->kind === null || $version->kind === $this->kind) &&
            self::isBetween($this->changedFrom, $version->mtime, $this->changedTo) &&
            self::isBetween($this->sizeFrom, $version->size, $this->sizeTo) &&
            (($this->sizeFrom === null && $this->sizeTo === null) || ($version->kind === EntryKind::File && $version->size >= 0)) &&
            ($this->owner === '' || $this->owner === (ctype_digit($this->owner) ? (string) $version->uid : $version->uname)) &&
            $this->fitsName($path);
    }

    private static function isBetween(?int $from, int $value, ?int $to): bool
    {
        return ($from === null || $value >= $from) && ($to === null || $value <= $to);
    }

    private function fitsName(string $path): bool
    {
        $isGlob = strpbrk($this->name, '*?') !== false;
        $slash = strrpos($this->name, '/');
        $last = $slash === false ? $this->name : substr($this->name, $slash + 1);
        $name = EntryPath::split($path)[1];
        $fits = $isGlob
            ? fnmatch(addcslashes($last, '[]\\'), $name)
            : str_contains(NameList::folded($name), NameList::folded($last));

        return $fits && ($slash === false || fnmatch(
            $isGlob ? "*{$this->name}" : '*'.addcslashes($this->name, '[]\\').'*',
            $path,
            $isGlob ? 0 : FNM_CASEFOLD,
        ));
    }

    /**
     * "10k", ">1M", "1M-2G", "0".
     *
     * @return array{int|null, int|null} bytes, from and to
     *
     * @throws InvalidArgumentException
     */
    public static function sizes(string $words): array
    {
        $words = str_replace(' ', '', $words);
        $one = '(\d+(?:\.\d+)?)([kmgt]?)(?:i?b)?';
        if (preg_match("/^$one-$one$/Di", $words, $m) === 1) {
            return [self::bytes($m[1], $m[2]), self::bytes($m[3], $m[4])];
        }
        if (preg_match("/^([<>]?)=?$one$/Di", $words, $m) === 1) {
            $bytes = self::bytes($m[2], $m[3]);

            return [$m[1] === '<' ? null : $bytes, $m[1] === '>' ? null : $bytes];
        }
        throw new InvalidArgumentException("\"$words\" is no size. Write 10k, >1M, <500, or 1M-2G.");
    }

    private static function bytes(string $number, string $unit): int
    {
        return (int) ((float) $number * 1024 ** (int) strpos(' kmgt', strtolower($unit === '' ? ' ' : $unit)));
    }
}
