<?php

declare(strict_types=1);

namespace App\Hosts;

use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Files\OctalEscapes;
use Symfony\Component\Process\Process;

/** Access lists of things on this machine, as getfacl(1) prints them: the pages have no C library to ask. */
final class PrintedLists
{
    private const SECONDS = 30;

    /**
     * @param  list<string>  $paths  whole ones
     * @return array<array-key, string> by path, see AccessList; none for what cannot be looked at
     */
    public static function of(array $paths): array
    {
        $process = new Process(['getfacl', '--physical', '--absolute-names', '--', ...$paths], '/', ['LC_ALL' => 'C'], null, self::SECONDS);
        $process->run(); // it ends with 1 where one of them is gone
        $lists = [];
        foreach (explode("\n\n", $process->getOutput()) as $block) {
            [$head, $entries] = explode("\n", "$block\n", 2);
            if (str_starts_with($head, '# file: ')) {
                $lists[OctalEscapes::undone(substr($head, 8))] = AccessList::textOf($entries);
            }
        }

        return $lists;
    }
}
