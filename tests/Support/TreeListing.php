<?php

declare(strict_types=1);

namespace Tests\Support;

use Symfony\Component\Process\Process;

/** What stands in a folder, told by find(1), sha256sum(1) and readlink(1): nothing of Kaiseki's own. */
final class TreeListing
{
    /**
     * @return array<string, string> path => kind, mode, time, content; files with several names also which these are
     */
    public static function of(string $root, bool $nanoseconds = true, bool $links = true): array
    {
        $process = new Process(['find', '.', '-mindepth', '1', '-printf', '%P\0%y %m %T@ %l\0%n %i\0'], $root, null, null, 300);
        $process->mustRun();
        $fields = explode("\0", rtrim($process->getOutput(), "\0"));
        $listing = $inodes = [];
        for ($i = 0; $i + 2 < count($fields) + 0; $i += 3) {
            [$path, $about, $inode] = [$fields[$i], $fields[$i + 1], $fields[$i + 2]];
            if (! $nanoseconds) {
                $about = (string) preg_replace('/^(\S+ \S+ -?\d+)\.\d+/', '$1', $about);
            }
            if ($about[0] === 'f') {
                $about .= ' '.hash_file('sha256', "$root/$path");
                [$names, $number] = explode(' ', $inode);
                if ($links && $names > 1) {
                    $inodes[$number][] = $path;
                }
            }
            $listing[$path] = $about;
        }
        foreach ($inodes as $paths) {
            sort($paths, SORT_STRING);
            foreach ($paths as $path) {
                $listing[$path] .= ' linked: '.bin2hex(implode("\0", $paths));
            }
        }
        ksort($listing, SORT_STRING);

        return $listing;
    }
}
