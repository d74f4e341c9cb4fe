<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

use InvalidArgumentException;
use Kaiseki\Core\Catalog\Shown;

/**
 * Something of a source that its sets leave out on purpose, and why. Patterns are those of fnmatch(3), in which * and ? stand for nothing
 * with a / in it: with a / in front it is a path from the top of the tree, a folder with all that is in it; without any / it is a name,
 * wherever that is.
 */
final readonly class Exclusion
{
    private const LONGEST = 500;

    private const LONGEST_REASON = 200;

    private function __construct(public string $pattern, public string $because)
    {
    }

    /** @throws InvalidArgumentException if it means nothing, or everything */
    public static function of(string $pattern, string $because): self
    {
        $pattern = rtrim($pattern, '/');
        $because = trim($because);
        $hasControl = preg_match('/[\x00-\x1f\x7f]/', $pattern.$because) === 1;
        if ($pattern === '' || strlen($pattern) > self::LONGEST || $hasControl || ! mb_check_encoding("$pattern$because", 'UTF-8')) {
            throw new InvalidArgumentException('What is left out is a path as "/logs/old", or a name as "*.tmp", of one line.');
        }
        if (str_contains(substr($pattern, 1), '/') && $pattern[0] !== '/') {
            throw new InvalidArgumentException("\"$pattern\" has a / in it, so it begins with one: it is a path from the top of the tree.");
        }
        if (preg_match('~(^|/)\.{1,2}(/|$)|//~', $pattern) === 1) {
            throw new InvalidArgumentException("\"$pattern\" is no path from the top of the tree: no part of one is empty, . or ...");
        }
        if (preg_match('~^/?[*?]*\*[*?]*$~D', $pattern) === 1) {
            throw new InvalidArgumentException("\"$pattern\" would leave out everything.");
        }
        if ($because === '' || mb_strlen($because) > self::LONGEST_REASON) {
            throw new InvalidArgumentException('Say in a few words why it is left out: whoever misses something of it reads that first.');
        }

        return new self($pattern, $because);
    }

    /** Whether something is it; that it is below a folder that is, the folder says. */
    public function is(string $path): bool
    {
        return $this->pattern[0] === '/'
            ? fnmatch(substr($this->pattern, 1), $path, FNM_PATHNAME)
            : fnmatch($this->pattern, basename("/$path"), 0);
    }

    /** @return array{pattern: string, because: string} */
    public function toArray(): array
    {
        return ['pattern' => $this->pattern, 'because' => $this->because];
    }

    public function words(): string
    {
        return '"'.Shown::name($this->pattern).'" ('.Shown::name($this->because).')';
    }
}
