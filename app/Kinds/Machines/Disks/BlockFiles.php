<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use App\Instance;

/** The lists of blocks of a set's disks, kept under the home: see Machine\BlockList. */
final class BlockFiles
{
    /**
     * @param  int  $set  its id
     * @param  int  $part  which of its disks
     */
    public static function of(int $set, int $part): string
    {
        return Instance::folder('index')."/$set".($part === 0 ? '' : ".$part").'.blocks';
    }
}
