<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Archive\DecimalSeconds;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\UnableToWrite;
use Kaiseki\Core\Volume\FoundFile;

/**
 * What was sent of a tree, a line for each name: its path percent-encoded, what stat(2) says of it, the SHA-256 of its content, its
 * attributes, the first of its names, and the digest by which the catalog knows its content. Compared with what a medium reads from the
 * disk again: find(1), sha256sum(1) and getfattr(1).
 */
final class TreeRecord
{
    /** Names that are compared at a time. */
    private const AT_ONCE = 100_000;

    /** How find(1) and tar(1) call the folder that all of it lies in. */
    public const TOP = '.';

    private const MOST_TOLD = 100;

    /** @var array<string, int> first name of a file => how many it has */
    private array $names = [];

    private int $count = 0;

    /** @var list<string> the first differences, in words */
    public array $differences = [];

    /** How many there are. */
    public int $wrong = 0;

    /** @param  resource  $file  opened to be read and written */
    public function __construct(private $file)
    {
    }

    /**
     * One that was kept.
     *
     * @param  resource  $file  opened to be read
     */
    public static function kept($file): self
    {
        $record = new self($file);
        foreach ($record->lines() as [, , , , $first]) {
            $record->count++;
            $first === '' || $record->names[rawurldecode($first)] = ($record->names[rawurldecode($first)] ?? 0) + 1;
        }

        return $record;
    }

    /** @return iterable<array{string, string, string, string, string, string}> the fields of each, as they stand there */
    private function lines(): iterable
    {
        rewind($this->file);
        while (($line = fgets($this->file)) !== false) {
            $fields = explode("\t", rtrim($line, "\n"));
            count($fields) === 6 && yield $fields;
        }
        fseek($this->file, 0, SEEK_END);
    }

    /** @return iterable<string, array{string, string}> path => SHA-256 of its content, and by what the catalog knows it; '' for none */
    public function contents(): iterable
    {
        foreach ($this->lines() as [$path, , $digest, , , $catalog]) {
            yield rawurldecode($path) => [$digest, $catalog];
        }
    }

    /** @param  resource  $file  to keep it in */
    public function copyTo($file): void
    {
        rewind($this->file);
        stream_copy_to_stream($this->file, $file) === ftell($this->file) || throw UnableToWrite::full('', 'The record of what was sent');
    }

    public function count(): int
    {
        return $this->count;
    }

    /** @param  string|null  $first  the name under which its content was sent, if it is another name of the same file */
    public function add(string $path, FoundFile $entry, string $digest, ?string $first): void
    {
        $of = $entry->version;
        $isFile = $of->kind === EntryKind::File;
        if ($isFile && $of->linkGroup > 0) {
            $this->names[$first ?? $path] = ($this->names[$first ?? $path] ?? 0) + 1;
        }
        $line = implode("\t", [
            rawurlencode($path), self::factsOf($entry), $digest, self::attributes($entry->extended),
            $isFile && $of->linkGroup > 0 ? rawurlencode($first ?? $path) : '', bin2hex((string) $of->digest),
        ])."\n";
        fwrite($this->file, $line) === strlen($line) || throw UnableToWrite::full('', 'The record of what was sent');
        $this->count++;
    }

    /**
     * @param  resource  $entries  what find(1) said, as resources/medium/init asks it
     * @param  resource  $digests  what sha256sum(1) -z said
     * @param  resource  $attributes  what getfattr(1) said
     */
    public function compare($entries, $digests, $attributes): void
    {
        $parts = intdiv($this->count, self::AT_ONCE) + 1;
        for ($part = 0; $part < $parts; $part++) {
            $isMeant = fn (string $path): bool => crc32($path) % $parts === $part;
            $got = self::got($entries, $digests, $attributes, $isMeant);
            foreach ($this->lines() as [$path, $facts, $digest, $kept, $first]) {
                $path = rawurldecode($path);
                if ($isMeant($path)) {
                    $this->one($path, [$facts, $digest, $kept, $first], $got[$path] ?? null, $got[rawurldecode($first)] ?? null);
                    unset($got[$path]);
                }
            }
            foreach (array_keys($got) as $more) {
                $this->differs((string) $more, 'is there, and was not sent');
            }
        }
    }

    /**
     * @param  array{string, string, string, string}  $want  facts, digest, attributes, and the first of its names
     * @param  array{string, string, string, int}|null  $got
     * @param  array{string, string, string, int}|null  $first  what that name is
     */
    private function one(string $path, array $want, ?array $got, ?array $first): void
    {
        [$facts, $digest, $attributes, $name] = $want;
        if ($got === null) {
            $this->differs($path, 'is not there');

            return;
        }
        $names = $name === '' ? 1 : $this->names[rawurldecode($name)];
        $isMore = $digest === '' && $name !== ''; // its content stands with the first of its names
        match (true) {
            $got[0] !== $facts => $this->differs($path, "is \"{$got[0]}\", and was \"$facts\""),
            $got[1] !== $digest && ! $isMore => $this->differs($path, 'has another content'),
            $isMore && $first !== null && $first[1] !== $got[1] => $this->differs($path, 'is no name of the file that it was one of'),
            $got[2] !== $attributes && ! $isMore => $this->differs($path, "has the attributes \"{$got[2]}\", and had \"$attributes\""),
            $facts[0] === 'f' && $got[3] !== $names => $this->differs($path, "has {$got[3]} names, and had $names"),
            default => null,
        };
    }

    private function differs(string $path, string $how): void
    {
        $this->wrong++;
        if ($this->wrong <= self::MOST_TOLD) {
            $this->differences[] = mb_strcut(mb_scrub('/'.addcslashes($path, "\0..\37\177\\")." $how"), 0, 500);
        }
    }

    /**
     * What is there, as compare() is told it.
     *
     * @param  resource  $entries
     * @param  resource  $digests
     * @param  resource  $attributes
     * @param  \Closure(string): bool  $isMeant
     * @return array<string, array{string, string, string, int}> path => facts, digest, attributes, names
     */
    public static function got($entries, $digests, $attributes, \Closure $isMeant): array
    {
        $got = [];
        rewind($entries);
        while (($said = stream_get_line($entries, 1 << 16, "\0")) !== false && $said !== '') {
            $target = (string) stream_get_line($entries, 1 << 16, "\0");
            $fields = explode(' ', $said, 8);
            if (count($fields) === 8 && $isMeant($path = preg_replace('~^\./~', '', $fields[7]) ?? '')) {
                [$type, $mode, $uid, $gid, $size, $time, $names] = $fields;
                $mtime = DecimalSeconds::nanoseconds($time);
                $facts = self::facts($type, (int) octdec($mode), (int) $uid, (int) $gid, $type === 'f' ? (int) $size : 0, $mtime, $target);
                $got[$path] = [$facts, '', '', (int) $names];
            }
        }
        rewind($digests);
        while (($said = stream_get_line($digests, 1 << 16, "\0")) !== false && $said !== '') {
            $path = substr($said, 64 + strlen('  ./'));
            if (isset($got[$path])) {
                $got[$path][1] = substr($said, 0, 64);
            }
        }
        foreach (AttributeDump::read($attributes) as $path => $found) {
            if (isset($got[$path])) {
                $got[$path][2] = self::attributes($found);
            }
        }

        return $got;
    }

    /**
     * Of an access list only that there is one: tar writes it as text, and the kernel as bytes.
     *
     * @param  array<string, string>  $extended  as TarEntry::$extended has them
     */
    public static function attributes(array $extended): string
    {
        $list = [];
        foreach ($extended as $keyword => $value) {
            $list[] = str_starts_with($keyword, 'SCHILY.acl.')
                ? substr($keyword, 7)
                : rawurlencode(substr($keyword, 13)).'='.(strlen($value) > 64 ? hash('sha256', $value) : bin2hex($value));
        }
        sort($list);

        return implode(';', $list);
    }

    /** What stat(2) says of it, in a line. */
    public static function factsOf(FoundFile $entry): string
    {
        $of = $entry->version;
        $size = $of->kind === EntryKind::File ? $of->size : 0;

        return self::facts($of->kind->value, $of->mode, $of->uid, $of->gid, $size, $of->mtime, $of->linkTarget);
    }

    private static function facts(string $type, int $mode, int $uid, int $gid, int $size, int $mtime, string $target): string
    {
        return implode(' ', [$type, $type === 'l' ? '' : decoct($mode), $uid, $gid, $size, $mtime, rawurlencode($target)]);
    }
}
