<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\UnableToWrite;

/**
 * What a run did to its target, written line by line before each deed, so that a run that was killed can be gone on with
 * or undone. Paths are percent-encoded.
 */
final class Journal
{
    /** All is staged and was right. */
    public const STAGED = 'staged';

    /** [staged path, final path]: nothing stood there. */
    public const PLACED = 'placed';

    /** [path, where it went]: what stood there is in the set-aside. */
    public const SET_ASIDE = 'set-aside';

    /** [path, where it went]: what stood there was renamed. */
    public const RENAMED = 'renamed';

    /** [path]: left as it was, because of the rule or since it is the same. */
    public const KEPT = 'kept';

    /** []: the target itself was not there. */
    public const MADE_TARGET = 'made-target';

    /** [folder, mode, user, group, nanoseconds]: how a folder that stood there was before something came into it. */
    public const ENTERED = 'entered';

    /** [path, mode, user, group, access list]: how something was before it got other permissions. */
    public const PERMITTED = 'permitted';

    public const FINISHED = 'finished';

    /** @var resource */
    private $file;

    private function __construct(public readonly string $path)
    {
        $file = @fopen($path, 'ab');
        if ($file === false) {
            throw UnableToWrite::open($path, 'The journal');
        }
        $this->file = $file;
    }

    public static function open(string $path): self
    {
        return new self($path);
    }

    public function add(string $what, string ...$paths): void
    {
        $line = implode("\t", [$what, ...array_map(rawurlencode(...), $paths)])."\n";
        if (fwrite($this->file, $line) !== strlen($line) || ! fflush($this->file)) {
            throw UnableToWrite::full($this->path, "The journal {$this->path}");
        }
    }

    /** How a folder that stands there is, before something comes into it. */
    public function entered(string $folder, Status $status): void
    {
        $this->add(self::ENTERED, $folder, ...array_map(strval(...), [$status->mode, $status->uid, $status->gid, $status->mtime]));
    }

    /** What the permissions of something are, before it gets others. */
    public function permitted(string $path, Permissions $present): void
    {
        $numbers = array_map(strval(...), [$present->mode, $present->uid, $present->gid]);
        $this->add(self::PERMITTED, $path, ...[...$numbers, $present->access ?? AccessList::NOT_KNOWN]);
    }

    public static function isBegun(string $path): bool
    {
        return is_file($path) && filesize($path) > 0;
    }

    /** @return iterable<list<string>> what was done, and its paths; a last line that was cut off is left out */
    public static function read(string $path): iterable
    {
        $file = is_file($path) ? fopen($path, 'rb') : false;
        while ($file !== false && ($line = fgets($file)) !== false) {
            if (str_ends_with($line, "\n")) {
                yield array_map(rawurldecode(...), explode("\t", rtrim($line, "\n")));
            }
        }
    }

    public static function holds(string $path, string $what): bool
    {
        foreach (self::read($path) as $line) {
            if ($line[0] === $what) {
                return true;
            }
        }

        return false;
    }
}
