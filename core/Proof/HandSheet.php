<?php

declare(strict_types=1);

namespace Kaiseki\Core\Proof;

use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\Version;

/**
 * The same restore as commands for a person: a shell script (POSIX sh) that takes the members that are needed out of each
 * archive with GNU tar, puts them under the names they have at the point, and compares every file with its digest. It
 * needs sh, tar, gzip, cp, ln, touch, chmod, chown and b2sum, and setfacl where there are access lists. A name may hold any byte but NUL:
 * all stand in single quotes.
 */
final class HandSheet
{
    private const MEMBERS_IN_A_LINE = 100;

    /** @var array<string, list<array{string, list<string>}>> archive key => member, and the paths that it becomes */
    private array $members = [];

    /** @var array<string, array{string, list<string>}> archive key => where it lies, and what to know about it */
    private array $archives = [];

    /** @var array<array-key, Version> path => what it is */
    private array $entries = [];

    /** @var list<string> */
    private array $without = [];

    /** @param  list<string>  $remarks  lines that stand at its head */
    public function __construct(private readonly string $title, private readonly array $remarks)
    {
    }

    /**
     * An archive that is read.
     *
     * @param  string  $where  a path, as it is to be found by whoever runs the sheet
     * @param  list<string>  $remarks
     */
    public function archive(string $key, string $where, array $remarks = []): void
    {
        $this->archives[$key] = [$where, $remarks];
    }

    /** A folder, link, pipe or empty file, which needs no archive; folders before what is in them. */
    public function entry(string $path, Version $version): void
    {
        $this->entries[$path] = $version;
    }

    /**
     * A content, and the files that have it.
     *
     * @param  string  $member  its name in the archive, as tar prints it
     * @param  non-empty-array<array-key, Version>  $files  path => version
     */
    public function content(string $archiveKey, string $member, array $files): void
    {
        $this->members[$archiveKey][] = [$member, array_map(strval(...), array_keys($files))];
        $this->entries += $files;
    }

    /** Something that no archive gives. */
    public function missing(string $path, string $because): void
    {
        $this->without[] = "/$path: $because";
    }

    /** @return iterable<string> the script in pieces */
    public function script(): iterable
    {
        yield "#!/bin/sh\n# ".self::remark($this->title)."\n";
        foreach ([...$this->remarks, ...array_map(fn (string $line): string => "NOT GIVEN BACK: $line", $this->without)] as $line) {
            yield '# '.self::remark($line)."\n";
        }
        yield <<<'SH'
        # usage: sh THIS-SHEET EMPTY-FOLDER
        set -eu
        export LC_ALL=C
        [ $# -eq 1 ] && [ -d "$1" ] || { echo "usage: sh $0 EMPTY-FOLDER" >&2; exit 2; }
        [ -z "$(ls -A "$1")" ] || { echo "$1 is not empty" >&2; exit 2; }
        to=$(cd "$1" && pwd)
        work=$to/.hand-sheet

        SH;
        yield "\n# Where the archives lie. Change these lines if they were moved.\n";
        $number = 0;
        $names = [];
        foreach ($this->archives as $key => [$where, $remarks]) {
            $names[$key] = 'archive'.++$number;
            foreach ($remarks as $line) {
                yield '# '.self::remark($line)."\n";
            }
            yield "{$names[$key]}=".self::quoted($where)."\n";
        }
        yield "\n# The members that are needed, out of each archive.\n";
        foreach ($this->members as $key => $members) {
            yield "mkdir -p \"\$work/{$names[$key]}\"\n";
            foreach (array_chunk(array_unique(array_column($members, 0)), self::MEMBERS_IN_A_LINE) as $chunk) {
                yield "printf '%s\\0' ".
                    implode(' ', array_map(self::quoted(...), $chunk)).
                    " |\n  tar --extract --file \"\${$names[$key]}\" --directory \"\$work/{$names[$key]}\" --null --verbatim-files-from ".
                        "--files-from=- --no-recursion --no-wildcards --delay-directory-restore\n";
            }
        }
        yield "\n# Under the names that they have at this point.\n";
        yield from $this->folders();
        yield from $this->files($names);
        yield "rm -rf \"\$work\"\n";
        yield from $this->attributes();
        yield from $this->comparison();
    }

    /** @return iterable<string> */
    private function folders(): iterable
    {
        $made = [];
        foreach ($this->entries as $path => $version) {
            $folder = $version->kind === EntryKind::Folder ? (string) $path : EntryPath::split((string) $path)[0];
            if ($folder !== '' && ! isset($made[$folder])) {
                $made[$folder] = true;
                yield 'mkdir -p '.self::below($folder)."\n";
            }
        }
    }

    /**
     * @param  array<string, string>  $names
     * @return iterable<string>
     */
    private function files(array $names): iterable
    {
        $groups = [];
        foreach ($this->members as $key => $members) {
            foreach ($members as [$member, $paths]) {
                // As tar writes it: what leads up from the top is taken off.
                $from = "\"\$work/{$names[$key]}\"/".self::quoted(ltrim($member, '/'));
                foreach ($paths as $path) {
                    $group = $this->entries[$path]->linkGroup;
                    if ($group !== 0 && isset($groups[$group])) {
                        yield 'ln '.self::below($groups[$group]).' '.self::below($path)."\n";

                        continue;
                    }
                    $groups[$group] ??= $path;
                    yield "cp --sparse=always $from ".self::below($path)."\n";
                }
            }
        }
        foreach ($this->entries as $path => $version) {
            $path = (string) $path;
            if (
                $version->linkGroup !== 0 &&
                isset($groups[$version->linkGroup]) &&
                $groups[$version->linkGroup] !== $path &&
                $version->size === 0
            ) {
                yield 'ln '.self::below($groups[$version->linkGroup]).' '.self::below($path)."\n";

                continue;
            }
            $line = match (true) {
                $version->kind === EntryKind::Symlink => 'ln -s -- '.self::quoted($version->linkTarget).' '.self::below($path),
                $version->kind === EntryKind::Fifo => 'mkfifo '.self::below($path),
                $version->kind === EntryKind::File && $version->size === 0 => ': > '.self::below($path),
                default => null,
            };
            if ($line !== null) {
                $groups[$version->linkGroup] ??= $path;
                yield "$line\n";
            }
        }
    }

    /** @return iterable<string> what is deepest first: each change inside a folder changes its time */
    private function attributes(): iterable
    {
        yield "\n# Owners (as root), access lists, modes and times.\n[ \"\$(id -u)\" -ne 0 ] || own=1\n";
        foreach (array_reverse($this->entries, true) as $path => $version) {
            $place = self::below((string) $path);
            yield '[ -z "${own-}" ] || chown -h '.
                self::quoted($version->owner()).
                " $place 2>/dev/null || chown -h {$version->uid}:{$version->gid} $place\n";
            if ($version->access !== '' && $version->access !== AccessList::NOT_KNOWN) {
                yield 'setfacl --set '.self::quoted($version->access)." $place || echo 'an access list was not given' >&2\n";
            }
            if ($version->kind !== EntryKind::Symlink) {
                yield sprintf("chmod %04o %s\n", $version->mode & ~06000, $place);
            }
            $seconds = (int) floor($version->mtime / 1e9);
            yield sprintf("touch -h -d @%d.%09d %s\n", $seconds, $version->mtime - $seconds * 1_000_000_000, $place);
        }
    }

    /** @return iterable<string> */
    private function comparison(): iterable
    {
        yield "\n# Every file against its BLAKE2b-256.\ncd \"\$to\"\nb2sum --length=256 --quiet --check <<'END-OF-DIGESTS'\n";
        $count = 0;
        foreach ($this->entries as $path => $version) {
            if ($version->kind === EntryKind::File && $version->digest !== null) {
                $count++;
                yield DigestLine::of($version->digest, "./$path");
            }
        }
        yield $count === 0 ? "END-OF-DIGESTS\n" : "END-OF-DIGESTS\necho 'All $count files are right.'\n";
    }

    private static function below(string $path): string
    {
        return '"$to"/'.self::quoted($path);
    }

    /** One word for a shell (POSIX.1-2017, Shell Command Language, 2.2.2), whatever is in it. */
    public static function quoted(string $text): string
    {
        return "'".str_replace("'", "'\\''", $text)."'";
    }

    /** On one line, whatever is in it. */
    private static function remark(string $text): string
    {
        return Shown::name($text);
    }
}
