<?php

declare(strict_types=1);

namespace Kaiseki\Core\Catalog;

/** Paths in trees: bytes, relative, parts joined by single slashes; '' is the top. */
final class EntryPath
{
    /**
     * A path as it stands in an archive, or was typed by a person, as a path in a tree.
     *
     * @throws UnsafePath if it would lead out of the tree, or no file system could hold it
     */
    public static function of(string $path): string
    {
        if (
            preg_match('~^(?:\.?/+)*([^/]+(?:/[^/]+)*)/*$~s', $path, $m) === 1 &&
            ! str_contains($path, "\0") &&
            preg_match('~(?:^|/)\.\.?(?:/|$)~s', $m[1]) === 0 &&
            strlen($m[1]) < 200
        ) {
            return $m[1]; // the usual case, at once
        }
        if (str_contains($path, "\0")) {
            throw UnsafePath::because($path, 'it holds a NUL byte');
        }
        $parts = [];
        foreach (explode('/', $path) as $part) {
            if ($part === '' || $part === '.') {
                continue;
            }
            if ($part === '..') {
                throw UnsafePath::because($path, 'it leads out of its folder');
            }
            if (strlen($part) > 255) {
                throw UnsafePath::because($path, 'a part of it is longer than 255 bytes');
            }
            $parts[] = $part;
        }
        if (count($parts) > 4096) {
            throw UnsafePath::because($path, 'it is more than 4096 folders deep');
        }

        return implode('/', $parts);
    }

    /** @return array{string, string} the folder it lies in, and its name */
    public static function split(string $path): array
    {
        $slash = strrpos($path, '/');

        return $slash === false ? ['', $path] : [substr($path, 0, $slash), substr($path, $slash + 1)];
    }

    public static function join(string $folder, string $name): string
    {
        return $folder === '' ? $name : $folder.'/'.$name;
    }

    /** Whether $path is $folder or lies below it. */
    public static function isWithin(string $path, string $folder): bool
    {
        return $folder === '' || $path === $folder || str_starts_with($path, $folder.'/');
    }

    /**
     * Without those that lie within another of them.
     *
     * @param  list<string>  $paths
     * @return list<string>
     */
    public static function outermost(array $paths): array
    {
        $paths = array_values(array_unique($paths));
        sort($paths, SORT_STRING);
        $kept = [];
        foreach ($paths as $path) {
            foreach ($kept as $outer) {
                if (self::isWithin($path, $outer)) {
                    continue 2;
                }
            }
            $kept[] = $path;
        }

        return $kept;
    }
}
